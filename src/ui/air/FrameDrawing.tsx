'use client'
import { useMemo } from 'react'
import { z } from 'zod'
import { bestReader } from '@/core/radio/subghz/decode'
import { familyFigures } from '@/core/radio/subghz/family'
import { useLive } from '@/ui/live/store'
import { Bits } from './Bits'

const frameSchema = z.object({ us: z.array(z.number()).min(1).max(1000), gapUs: z.number() })
const [ROW_US, ROW_PX, TALL] = [12_000, 300, 26]

/** A raw frame: its pulses to scale, row by row, its bits by the family that reads it, and what nobody read. */
export function FrameDrawing({ payload }: { payload: string }) {
  const families = useLive((s) => s.shop.families)
  const frame = useMemo(() => {
    try {
      return frameSchema.safeParse(JSON.parse(payload)).data ?? null
    } catch {
      return null
    }
  }, [payload])
  if (!frame) return null
  const all = Object.values(families)
  const best = bestReader(all.map(familyFigures), frame)
  const by = best && all[best.family]
  const shown = best?.code ?? null
  const spoilt = shown === null ? [] : [...shown].flatMap((bit, i) => (bit === '?' ? [i] : []))
  const total = frame.us.reduce((a, b) => a + b, 0)
  const rows = Math.ceil(total / ROW_US)
  return (
    <div className="frame-drawing">
      <svg
        viewBox={`0 0 ${ROW_PX} ${rows * (TALL + 8)}`}
        role="img"
        aria-label={`${frame.us.length} pulses in ${(total / 1000).toFixed(1)} ms`}
      >
        {traces(frame.us).map((d, i) => (
          <path key={i} d={d} transform={`translate(0 ${i * (TALL + 8)})`} />
        ))}
      </svg>
      <p className="small soft mb-1">
        {frame.us.length} pulses, {(total / 1000).toFixed(1)} ms; a row is {ROW_US / 1000} ms. Then silent for{' '}
        {frame.gapUs >= 99_999 ? 'longer than 100' : (frame.gapUs / 1000).toFixed(1)} ms.
      </p>
      {shown !== null && by ? (
        <>
          <Bits code={shown} marked={spoilt} />
          <p className="small mono mb-1">{shown}</p>
          <p className="small">
            {spoilt.length === 0
              ? `All of it is of “${by.name}”.`
              : `Of “${by.name}”, but ${spoilt.length} of ${shown.length} symbols are not as long as they must be: this frame alone says nothing.`}
          </p>
        </>
      ) : (
        <p className="small">
          No family here reads it:{' '}
          {whyNot(
            frame.us.length,
            Object.values(families).map((f) => f.lead.length + f.bits * f.zero.length + 1),
          )}
        </p>
      )}
    </div>
  )
}

const whyNot = (pulses: number, known: readonly number[]): string =>
  known.includes(pulses)
    ? 'it has as many pulses as one of them, but not their lengths.'
    : `none has frames of ${pulses} pulses.`

/** Levels over time, cut into rows. */
function traces(us: readonly number[]): string[] {
  const out: string[] = []
  let at = 0
  const y = (level: boolean) => (level ? 2 : TALL - 2)
  for (const [i, length] of us.entries()) {
    const high = i % 2 === 0
    let left = length
    let first = true
    while (left > 0) {
      const row = Math.floor(at / ROW_US)
      const here = Math.min(left, (row + 1) * ROW_US - at)
      const x = ((at % ROW_US) * ROW_PX) / ROW_US
      const turn = first ? `V ${y(high)}` : ''
      const begin = out[row] === undefined ? `M ${x} ${y(high)}` : turn
      out[row] = `${out[row] ?? ''} ${begin} h ${(here * ROW_PX) / ROW_US}`
      at += here
      left -= here
      first = false
    }
  }
  return out
}

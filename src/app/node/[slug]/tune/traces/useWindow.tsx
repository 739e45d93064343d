'use client'
import { type ReactNode, useMemo, useState } from 'react'
import { Form } from 'react-bootstrap'
import { firstAtOrAfter } from '@/core/trace/reduced'

/** A trace longer than this can be looked at in parts, samples. */
const LONG = 3000
const WIDTHS = [1, 0.25, 0.05, 0.01, 0.002] as const

/** Which samples are on show, as two indices, and the controls to narrow and to scroll them. */
export function useWindow(s: ArrayLike<number>): { window: readonly [number, number]; controls: ReactNode } {
  const [share, setShare] = useState(1)
  const [at, setAt] = useState(0)
  const end = s[s.length - 1] ?? 0
  const from = at * end * (1 - share)
  const window = useMemo((): readonly [number, number] => {
    if (share === 1) return [0, s.length]
    return [firstAtOrAfter(s, from), Math.min(s.length, firstAtOrAfter(s, from + share * end) + 1)]
  }, [s, share, from, end])
  if (s.length < LONG) return { window: [0, s.length], controls: null }
  const words = (w: number) => (w === 1 ? 'all of it' : `${(w * end).toPrecision(3)} s of it`)
  const controls = (
    <div className="d-flex gap-3 align-items-center flex-wrap">
      <Form.Select
        size="sm"
        className="w-auto"
        aria-label="how much is shown"
        value={share}
        onChange={(e) => setShare(Number(e.target.value))}
      >
        {WIDTHS.map((w) => (
          <option key={w} value={w}>
            {words(w)}
          </option>
        ))}
      </Form.Select>
      {share < 1 && (
        <Form.Range
          aria-label="scroll"
          style={{ flex: 1 }}
          min={0}
          max={1}
          step={0.001}
          value={at}
          onChange={(e) => setAt(Number(e.target.value))}
        />
      )}
    </div>
  )
  return { window, controls }
}

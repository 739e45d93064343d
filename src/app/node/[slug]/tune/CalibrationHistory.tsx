'use client'
import { useEffect, useState } from 'react'
import { Button } from 'react-bootstrap'
import { z } from 'zod'
import { drifts, type KeptCalibration, keptCalibrationSchema, monthsFor, monthsOn } from '@/core/calibration/history'
import type { Signal } from '@/core/model/design'
import { calendarFile } from '@/core/references/calendar'
import { fixed, signed } from '@/core/units/format'
import { saveFile } from '@/ui/files/saveFile'
import { ask } from '@/ui/live/api'
import { edit, say } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'

const historySchema = z.object({
  own: z.array(keptCalibrationSchema),
  elsewhere: z.array(keptCalibrationSchema.extend({ of: z.string(), same: z.boolean() })),
})
type Elsewhere = z.infer<typeof historySchema>['elsewhere'][number]

interface HistoryProps {
  view: NodeView
  signalId: string
  signal: Signal
  quantity: string
  /** Counts what has been recorded here: looked up again with each. */
  records: number
  scale: number
  unit: string
  decimals: number
}

/** What was kept of this part: calibrations, checks, how it drifts; and what parts of its kind bring along. */
export function CalibrationHistory({ view, signalId, signal, quantity, records, scale, unit, decimals }: HistoryProps) {
  const { id } = view.node
  const [kept, setKept] = useState<z.infer<typeof historySchema> | null>(null)
  const inForce = signal.calibration?.recordId
  const expires = signal.calibration?.expires ?? null
  useEffect(() => {
    let here = true
    void ask(`/api/nodes/${id}/calibrations?signal=${signalId}`, historySchema).then((a) => {
      if (here && a.kind === 'ok') setKept(a.value)
    })
    return () => {
      here = false
    }
  }, [id, signalId, inForce, records])
  if (!kept || kept.own.length + kept.elsewhere.length === 0) return null
  const take = ({ id: recordId, made, at, points }: KeptCalibration) => {
    if (!made) return
    const { gain, offset, curve, span } = made
    const date = at.slice(0, 10)
    const calibration = {
      recordId,
      gain,
      offset,
      curve,
      span,
      points,
      date,
      expires: monthsOn(date, monthsFor(quantity)),
    }
    if (edit(id, { kind: 'calibrate', signalId, calibration })) say('In the design, as it was made there. Send it.')
  }
  const shift = (v: number) => `${signed(v * scale, decimals)} ${unit}`
  return (
    <section aria-label="kept calibrations">
      <ul className="plain small" data-kept={kept.own.length}>
        {kept.own.map((k) => (
          <li key={k.id}>
            {k.at.slice(0, 10)} {k.initials}, {k.reference}: {keptWords(k, scale, unit, decimals)}
            {k.made && k.id !== inForce && (
              <>
                {' '}
                <Button variant="bare" onClick={() => take(k)}>
                  use it again
                </Button>
              </>
            )}
          </li>
        ))}
      </ul>
      {drifts(kept.own).map((d) => (
        <p key={d.to} className="small mb-1" data-drift={d.shift}>
          From {d.from.slice(0, 10)} to {d.to.slice(0, 10)} its correction at {fixed(d.at * scale, decimals)} {unit}{' '}
          moved by {shift(d.shift)}
          {d.perYear !== null && `, ${shift(d.perYear)} a year`}
          {driftWords(d.real)}
        </p>
      ))}
      {expires !== null && (
        <p className="small mb-1">
          <Button variant="bare" onClick={() => remind(`${view.node.design.name} ${signal.tag}`, expires)}>
            a reminder for the calendar
          </Button>
        </p>
      )}
      {kept.elsewhere.length > 0 && (
        <details className="small" open={kept.elsewhere.some((k) => k.same) && !signal.calibration}>
          <summary>Parts of its kind elsewhere: one that was moved here brings its calibration along</summary>
          <ul className="plain">
            {[...kept.elsewhere].sort(sameFirst).map((k) => (
              <li key={k.id} data-elsewhere={k.id}>
                {k.same && <b>The same part by its address. </b>}
                {k.of}, {k.at.slice(0, 10)} {k.initials}: {keptWords(k, scale, unit, decimals)}{' '}
                {k.id !== inForce && (
                  <Button variant="bare" onClick={() => take(k)}>
                    it is this part: use it
                  </Button>
                )}
              </li>
            ))}
          </ul>
        </details>
      )}
    </section>
  )
}

const sameFirst = (a: Elsewhere, b: Elsewhere): number => Number(b.same) - Number(a.same)

function keptWords({ made, check, points }: KeptCalibration, scale: number, unit: string, decimals: number): string {
  const pairs = `${points} ${points === 1 ? 'pair' : 'pairs'}`
  if (check) {
    const holds = { true: 'still held', false: 'held no longer', null: 'could not be judged' }[`${check.holds}`]
    return `checked with ${pairs}, ${holds}, off by ${signed(check.worst * scale, decimals)} ${unit} at most`
  }
  if (!made) return pairs
  const band = made.u95 === null ? '' : `, ± ${fixed(made.u95 * scale, decimals)} ${unit}`
  if (made.curve) return `${made.model} from ${pairs}${band}`
  return `× ${fixed(made.gain, 4)} ${signed(made.offset * scale, decimals)} ${unit} from ${pairs}${band}`
}

function driftWords(real: boolean | null): string {
  if (real === null) return '.'
  return real ? ': more than their uncertainties explain.' : ': no more than their uncertainties explain.'
}

function remind(of: string, expires: string): void {
  const at = new Date(`${expires}T09:00:00`)
  const title = `${of}: check its calibration`
  const file = calendarFile({ id: `${expires}-${of.replace(/\W+/g, '-')}`, at, title, text: title }, new Date())
  saveFile('calibration.ics', 'text/calendar', file)
}

'use client'
import { useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { z } from 'zod'
import type { Fit } from '@/core/calibration/fit'
import { fitWorking } from '@/core/calibration/fitWorking'
import { monthsFor, monthsOn } from '@/core/calibration/history'
import { MODELS } from '@/core/calibration/models'
import { calibrationSchema } from '@/core/calibration/calibrationSchema'
import { fixed, signed } from '@/core/units/format'
import { WorkingSteps } from '@/ui/findings/WorkingSteps'
import { ask } from '@/ui/live/api'
import { author, edit, rememberAuthor, say } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'
import type { TakenPair } from './usePairs'

const initialsSchema = z
  .string()
  .trim()
  .min(1, 'Write your initials: the record carries them.')
  .max(10, 'At most 10 characters.')
const keptSchema = calibrationSchema.pick({ gain: true, offset: true, curve: true, span: true, points: true })

const checkedSchema = z.object({ worst: z.number(), allowed: z.number().nullable(), holds: z.boolean().nullable() })

interface OutcomeProps {
  view: NodeView
  signalId: string
  pairs: TakenPair[]
  fit: Fit
  common: number
  scale: number
  unit: string
  decimals: number
  /** What it was compared with, as the record keeps it. */
  reference: string
  quantity: string
  /** A calibration or a check is with the server now. */
  onRecorded: () => void
  onKept: () => void
}

/** What the pairs give, how, and how well; and the step from there into the design. */
export function Outcome({
  view,
  signalId,
  pairs,
  fit,
  common,
  scale,
  unit,
  decimals,
  reference,
  quantity,
  onRecorded,
  onKept,
}: OutcomeProps) {
  const [initials, setInitials] = useState(() => author())
  const [problem, setProblem] = useState('')
  const [months, setMonths] = useState(String(monthsFor(quantity)))
  const counted = pairs.filter((p) => p.aside === undefined)
  const keep = async () => {
    const parsed = initialsSchema.safeParse(initials)
    if (!parsed.success) return setProblem(parsed.error.issues[0]?.message ?? '')
    rememberAuthor(parsed.data)
    const recordId = crypto.randomUUID()
    const answer = await ask(`/api/nodes/${view.node.id}/calibrations`, keptSchema, {
      id: recordId,
      signal: signalId,
      initials: parsed.data,
      reference,
      model: fit.model,
      common,
      pairs,
    })
    if (answer.kind !== 'ok')
      return setProblem(answer.kind === 'away' ? 'The server cannot be reached; nothing was kept.' : answer.error)
    const date = new Date().toISOString().slice(0, 10)
    const expires = Number(months) > 0 ? monthsOn(date, Math.min(240, Math.round(Number(months)))) : null
    if (
      edit(view.node.id, { kind: 'calibrate', signalId, calibration: { recordId, ...answer.value, date, expires } })
    ) {
      onKept()
      say('Kept with its pairs. Send the design, and the node uses it.')
    }
  }
  const inForce = view.node.design.signals[signalId]?.calibration ?? null
  const check = async () => {
    const parsed = initialsSchema.safeParse(initials)
    if (!parsed.success || !inForce) return setProblem(parsed.error?.issues[0]?.message ?? '')
    rememberAuthor(parsed.data)
    const answer = await ask(`/api/nodes/${view.node.id}/calibrations`, checkedSchema, {
      id: crypto.randomUUID(),
      signal: signalId,
      initials: parsed.data,
      reference,
      common,
      pairs,
      check: true,
    })
    if (answer.kind !== 'ok')
      return setProblem(answer.kind === 'away' ? 'The server cannot be reached; nothing was kept.' : answer.error)
    onRecorded()
    const { worst, allowed, holds } = answer.value
    const much = `${signed(worst * scale, decimals)} ${unit}`
    if (holds === null)
      return say(
        `Off by ${much} at most. Whether that is much nobody can say: neither it nor the reference has a stated uncertainty.`,
      )
    const by = `off by ${much} at most, ± ${fixed((allowed ?? 0) * scale, decimals)} ${unit} explained`
    if (!holds) return say(`It holds no longer: ${by}. Use the new one.`, 'refused')
    const today = new Date().toISOString().slice(0, 10)
    const expires = Number(months) > 0 ? monthsOn(today, Math.min(240, Math.round(Number(months)))) : null
    edit(view.node.id, { kind: 'calibrate', signalId, calibration: { ...inForce, expires } })
    onKept()
    say(`It still holds: ${by}.`)
  }
  const half = fit.expanded95((fit.span.min + fit.span.max) / 2)
  return (
    <>
      <h2 className="mt-3" data-fit={`${fit.gain} ${fit.offset}`} data-model={fit.model}>
        {fit.curve
          ? MODELS[fit.model].title
          : `× ${fixed(fit.gain, 4)} ${signed(fit.offset * scale, decimals)} ${unit}`}
      </h2>
      <WorkingSteps working={fitWorking(counted, fit, scale, unit, decimals)} />
      {half !== null && (
        <p className="small">
          A corrected reading is good to ± {fixed(half * scale, decimals)} {unit} (95 %, {fit.freedom}{' '}
          {fit.freedom === 1 ? 'degree' : 'degrees'} of freedom
          {common > 0 ? `, ± ${fixed(common * scale, decimals)} ${unit} shared by all references included` : ''}).
        </p>
      )}
      <Form
        onSubmit={(e) => {
          e.preventDefault()
          void keep()
        }}
        className="d-flex gap-2 align-items-end flex-wrap"
      >
        <div style={{ width: 100 }}>
          <Form.Label htmlFor="initials">initials</Form.Label>
          <Form.Control
            id="initials"
            value={initials}
            onChange={(e) => setInitials(e.target.value)}
            isInvalid={problem !== ''}
            autoComplete="off"
          />
        </div>
        <div style={{ width: 110 }}>
          <Form.Label htmlFor="good-for">good for, months</Form.Label>
          <Form.Control id="good-for" value={months} onChange={(e) => setMonths(e.target.value)} autoComplete="off" />
        </div>
        <Button type="submit">Use this calibration</Button>
        {inForce && (
          <Button variant="quiet" onClick={() => void check()}>
            Only check the one in force
          </Button>
        )}
      </Form>
      {problem && (
        <div className="small" role="alert">
          {problem}
        </div>
      )}
    </>
  )
}

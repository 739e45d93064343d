'use client'
import { referenceFor } from '@/core/calibration/reference'
import { rawOf } from '@/core/calibration/rawOf'
import { useEffect, useMemo, useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { z } from 'zod'
import { fitLine, type LineFit, type Pair } from '@/core/calibration/fitLine'
import { lineWorking } from '@/core/calibration/lineWorking'
import type { Channel } from '@/core/catalog/part'
import type { Signal } from '@/core/model/design'
import { unitFactor } from '@/core/units/convert'
import { fixed, signed } from '@/core/units/format'
import { numberIn } from '@/ui/fields/numberIn'
import { WorkingSteps } from '@/ui/findings/WorkingSteps'
import { ask } from '@/ui/live/api'
import { author, edit, rememberAuthor, say, useLive } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'
import { useInForce } from '../useInForce'
import { Curve } from './Curve'
import { NoCurve } from './NoCurve'
import { useRecent, windowFor } from './useRecent'

interface CalibrateProps {
  view: NodeView
  signalId: string
  signal: Signal
  channel: Channel
}

/** Readings of this many seconds make one pair: their mean, so that rounding and noise count less. */
const PAIR_S = 5
/** Pairs closer than this share of the part's range give a gain that is mostly noise. */
const CLOSEST_SHARE = 0.005
const initialsSchema = z
  .string()
  .trim()
  .min(1, 'Write your initials: the record carries them.')
  .max(10, 'At most 10 characters.')

/** Pairs of what the node reads and what a reference says, and the line through them. */
export function Calibrate({ view, signalId, signal, channel }: CalibrateProps) {
  const { node } = view
  const scale = unitFactor(channel.unit, signal.publish.unit)
  const { unit } = signal.publish
  const decimals = signal.publish.decimals + 1
  const windowS = windowFor(signal.publish.intervalS, node.design.sleep?.everyS ?? 0)
  const recent = useRecent(node.id, signalId, windowS)
  const inForce = useInForce(view)
  const [pairs, setPairs] = usePairs(`${node.id}/${signalId}`)
  const [reference, setReference] = useState('')
  const [problem, setProblem] = useState('')
  const against = referenceFor(channel.quantity)
  const span = channel.access === 'reading' ? channel.range.max - channel.range.min : 1
  const fit = useMemo(() => fitLine(pairs, span * CLOSEST_SHARE), [pairs, span])

  const old = signal.calibration ?? { gain: 1, offset: 0 }
  const lastAt = recent.at(-1)?.at ?? 0
  const latest = recent.filter((r) => r.at > lastAt - PAIR_S * 1000)
  const shown = latest.length > 0 ? latest.reduce((sum, r) => sum + r.value, 0) / latest.length : null
  const raw = shown === null ? null : rawOf(shown, scale, old)
  const notYet = inForce
    ? ''
    : 'The node does not run this design yet. Send it first: what it reads would be paired with another calibration.'
  const blocked = raw === null ? 'No reading yet.' : notYet

  const take = () => {
    const parsed = numberIn(-10_000, 100_000, unit).safeParse(reference)
    if (!parsed.success) return setProblem(parsed.error.issues[0]?.message ?? '')
    if (raw === null) return
    setProblem('')
    setReference('')
    setPairs([...pairs, { raw, reference: parsed.data / scale }])
  }

  return (
    <div className="tune-split">
      <section aria-label="curve">
        {recent.length < 2 ? (
          <NoCurve view={view} signalId={signalId} signal={signal} channel={channel} windowS={windowS} />
        ) : (
          <Curve recent={recent} signal={signal} windowS={windowS} />
        )}
        <h2 className="mt-3">In force in the design</h2>
        <p>
          {signal.calibration ? (
            <>
              × {fixed(signal.calibration.gain, 4)} {signed(signal.calibration.offset * scale, decimals)} {unit}, from{' '}
              {signal.calibration.points} {signal.calibration.points === 1 ? 'pair' : 'pairs'} on{' '}
              {signal.calibration.date}.{' '}
              <Button variant="bare" onClick={() => edit(node.id, { kind: 'calibrate', signalId, calibration: null })}>
                drop it
              </Button>
            </>
          ) : (
            'As sold: no calibration.'
          )}
        </p>
      </section>
      <section aria-label="pairs">
        <h2>A pair: what it reads, {against.says}</h2>
        <p className="soft small mt-0 me-0 mb-2 ms-0">
          {latest.length === 1 ? 'One reading' : `Mean of ${latest.length} readings in ${PAIR_S} s`}, before
          calibration:{' '}
          <b data-raw={raw ?? ''} style={{ color: 'var(--ink)' }}>
            {raw === null ? 'none' : `${fixed(raw * scale, decimals)} ${unit}`}
          </b>
        </p>
        <Form
          onSubmit={(e) => {
            e.preventDefault()
            take()
          }}
          className="d-flex gap-2 align-items-end"
        >
          <div style={{ width: 130 }}>
            <Form.Label htmlFor="reference">reference, {unit}</Form.Label>
            <Form.Control
              id="reference"
              value={reference}
              onChange={(e) => setReference(e.target.value)}
              isInvalid={problem !== ''}
              autoComplete="off"
            />
          </div>
          <Button type="submit" disabled={blocked !== ''}>
            Take the pair
          </Button>
        </Form>
        {problem && (
          <div className="small" role="alert">
            {problem}
          </div>
        )}
        {blocked && (
          <div className="small" role="status">
            {blocked}
          </div>
        )}
        <DemoTape node={node.id} channel={channel} scale={scale} unit={unit} onTake={setReference} />
        {pairs.length > 0 && (
          <table className="table mt-3">
            <thead>
              <tr>
                <th scope="col">reads</th>
                <th scope="col">reference</th>
                <th scope="col">left over</th>
                <th scope="col">
                  <span className="visually-hidden">remove</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {pairs.map((p, i) => (
                <tr key={i}>
                  <td>
                    {fixed(p.raw * scale, decimals)} {unit}
                  </td>
                  <td>
                    {fixed(p.reference * scale, decimals)} {unit}
                  </td>
                  <td>
                    {fit.kind === 'line' && fit.points > 2 ? signed((fit.residuals[i] ?? 0) * scale, decimals) : '–'}
                  </td>
                  <td>
                    <Button
                      variant="bare"
                      className="small"
                      aria-label={`remove pair ${i + 1}`}
                      onClick={() => setPairs(pairs.filter((_, k) => k !== i))}
                    >
                      remove
                    </Button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
        <Outcome
          view={view}
          signalId={signalId}
          pairs={pairs}
          fit={fit}
          scale={scale}
          unit={unit}
          decimals={decimals}
          reference={against.record}
          onKept={() => setPairs([])}
        />
      </section>
    </div>
  )
}

interface DemoTapeProps {
  node: string
  channel: Channel
  scale: number
  unit: string
  onTake: (reading: string) => void
}

/** In the demo a tape hangs beside the tank. */
function DemoTape({ node, channel, scale, unit, onTake }: DemoTapeProps) {
  const tape = useLive((s) => s.tapes[node])
  if (!tape || channel.quantity !== 'length') return null
  const shown = fixed(tape.levelM * scale, 0)
  return (
    <p className="small soft mt-2 me-0 mb-0 ms-0">
      Demo: a tape at the tank shows{' '}
      <b style={{ color: 'var(--ink)' }} data-tape={tape.levelM}>
        {shown} {unit}
      </b>
      .{' '}
      <Button variant="bare" onClick={() => onTake(shown)}>
        write it in
      </Button>
    </p>
  )
}

interface OutcomeProps {
  view: NodeView
  signalId: string
  pairs: Pair[]
  fit: LineFit
  scale: number
  unit: string
  decimals: number
  /** What it was compared with, as the record keeps it. */
  reference: string
  onKept: () => void
}

/** What the pairs give, how, and how well; and the step from there into the design. */
function Outcome({ view, signalId, pairs, fit, scale, unit, decimals, reference, onKept }: OutcomeProps) {
  const [initials, setInitials] = useState(() => author())
  const [problem, setProblem] = useState('')
  if (fit.kind === 'none')
    return pairs.length > 0 ? (
      <p className="small" role="alert">
        No line: {fit.reason}. Take a pair at another level.
      </p>
    ) : null
  const keep = async () => {
    const parsed = initialsSchema.safeParse(initials)
    if (!parsed.success) return setProblem(parsed.error.issues[0]?.message ?? '')
    rememberAuthor(parsed.data)
    const recordId = crypto.randomUUID()
    const answer = await ask(
      `/api/nodes/${view.node.id}/calibrations`,
      z.object({ gain: z.number(), offset: z.number() }),
      { id: recordId, signal: signalId, initials: parsed.data, reference, pairs },
    )
    if (answer.kind !== 'ok')
      return setProblem(answer.kind === 'away' ? 'The server cannot be reached; nothing was kept.' : answer.error)
    const date = new Date().toISOString().slice(0, 10)
    if (
      edit(view.node.id, {
        kind: 'calibrate',
        signalId,
        calibration: { recordId, ...answer.value, date, points: pairs.length },
      })
    ) {
      onKept()
      say('Kept with its pairs. Send the design, and the node uses it.')
    }
  }
  return (
    <>
      <h2 className="mt-3" data-fit={`${fit.gain} ${fit.offset}`}>
        × {fixed(fit.gain, 4)} {signed(fit.offset * scale, decimals)} {unit}
      </h2>
      <WorkingSteps working={lineWorking(pairs, fit, scale, unit, decimals)} />
      {fit.error && (
        <p className="small">
          A corrected reading is good to ±{' '}
          {fixed(fit.error.expanded95((fit.span.min + fit.span.max) / 2) * scale, decimals)} {unit} (95 %, {fit.freedom}{' '}
          degrees of freedom).
        </p>
      )}
      <Form
        onSubmit={(e) => {
          e.preventDefault()
          void keep()
        }}
        className="d-flex gap-2 align-items-end"
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
        <Button type="submit">Use this calibration</Button>
      </Form>
      {problem && (
        <div className="small" role="alert">
          {problem}
        </div>
      )}
    </>
  )
}

const pairsSchema = z.array(z.object({ raw: z.number(), reference: z.number() }))

/** Pairs not yet used survive a closed tab. */
function usePairs(key: string): [Pair[], (pairs: Pair[]) => void] {
  const [pairs, setPairs] = useState<Pair[]>([])
  useEffect(() => {
    const restore = setTimeout(() => {
      try {
        const kept = pairsSchema.safeParse(JSON.parse(localStorage.getItem(`vivid-pairs-${key}`) ?? '[]'))
        if (kept.success && kept.data.length > 0) setPairs(kept.data)
      } catch {
        /* unreadable: start with none */
      }
    }, 0)
    return () => clearTimeout(restore)
  }, [key])
  return [
    pairs,
    (next) => {
      setPairs(next)
      localStorage.setItem(`vivid-pairs-${key}`, JSON.stringify(next))
    },
  ]
}

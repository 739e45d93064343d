'use client'
import { useMemo, useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { z } from 'zod'
import { compareModels } from '@/core/calibration/compare'
import { curveWords } from '@/core/calibration/curve'
import type { ModelName } from '@/core/calibration/models'
import { referenceFor } from '@/core/calibration/reference'
import { nominalOf, suits } from '@/core/calibration/suits'
import type { Channel } from '@/core/catalog/part'
import type { Signal } from '@/core/model/design'
import { hueOf } from '@/core/palette/palette'
import { unitFactor } from '@/core/units/convert'
import { durationWords, fixed, signed } from '@/core/units/format'
import { numberIn } from '@/ui/fields/numberIn'
import { ask } from '@/ui/live/api'
import { edit, say, useLive } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'
import { useClock } from '@/ui/live/useClock'
import { CalibrationHistory } from './CalibrationHistory'
import { Curve } from './Curve'
import { FitChart } from './FitChart'
import { ModelTable } from './ModelTable'
import { NoCurve } from './NoCurve'
import { Outcome } from './Outcome'
import { PairFile } from './PairFile'
import { PairTable } from './PairTable'
import { References } from './References'
import { usePairs } from './usePairs'
import { PAIR_S, type RawNow, useRaw } from './useRaw'
import { useRecent, windowFor } from '@/ui/live/useRecent'

interface CalibrateProps {
  view: NodeView
  signalId: string
  signal: Signal
  channel: Channel
}

/** Pairs closer than this share of the part's range give a gain that is mostly noise. */
const CLOSEST_SHARE = 0.005
const uncertain = z.union([
  z.literal(''),
  z.coerce.number('a number, or nothing').min(0, 'not below zero').max(1e6, 'at most a million'),
])

/** Pairs of what the node reads and what a reference says, and what can be made of them. */
export function Calibrate({ view, signalId, signal, channel }: CalibrateProps) {
  const { node } = view
  const scale = unitFactor(channel.unit, signal.publish.unit)
  const { unit } = signal.publish
  const decimals = signal.publish.decimals + 1
  const windowS = windowFor(signal.publish.intervalS, node.design.sleep?.everyS ?? 0)
  const recent = useRecent(node.id, signalId, windowS)
  const now = useRaw(view, signalId, signal, recent, scale)
  const [pairs, setPairs] = usePairs(`${node.id}/${signalId}`)
  const [common, setCommon] = useState('')
  const [picked, setPicked] = useState<ModelName | null>(null)
  const [records, setRecords] = useState(0)
  const against = referenceFor(channel.quantity)
  const span = channel.access === 'reading' ? channel.range.max - channel.range.min : 1
  const nominal = nominalOf(channel, node.design.parts[signal.partId]?.settings ?? {})
  const commonU = Number(common) / scale || 0
  const counted = useMemo(() => pairs.filter((p) => p.aside === undefined), [pairs])
  const { all, proposed } = useMemo(
    () => compareModels(counted, { nominal, common: commonU, closest: span * CLOSEST_SHARE }, (m) => suits(m, nominal)),
    // The part's values change only with the part.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [counted, commonU, span, nominal?.ohm25, nominal?.betaK],
  )
  const possible = (m: ModelName | null) => all.find((c) => c.model === m)?.fitted ?? null
  const fit = possible(picked) ?? possible(proposed)
  const show = { scale, unit, decimals }

  return (
    <div className="tune-split">
      <section aria-label="curve">
        {recent.length < 2 ? (
          <NoCurve view={view} signalId={signalId} signal={signal} channel={channel} windowS={windowS} />
        ) : (
          <Curve recent={recent} signal={signal} windowS={windowS} />
        )}
        {fit && (
          <>
            <h2 className="mt-3">What the pairs say: reading to correction</h2>
            <FitChart pairs={counted} fit={fit} hue={hueOf(signal)} {...show} />
          </>
        )}
        <h2 className="mt-3">In force in the design</h2>
        <InForce nodeId={node.id} signalId={signalId} signal={signal} {...show} />
        <CalibrationHistory
          view={view}
          signalId={signalId}
          signal={signal}
          quantity={channel.quantity}
          records={records}
          {...show}
        />
      </section>
      <section aria-label="pairs">
        <h2>A pair: what it reads, {against.says}</h2>
        <PairForm
          view={view}
          signalId={signalId}
          channel={channel}
          now={now}
          {...show}
          onTake={(pair) => setPairs([...pairs, pair])}
        />
        {pairs.length > 0 && <PairTable pairs={pairs} fit={fit} {...show} onChange={setPairs} />}
        <PairFile scale={scale} unit={unit} onPairs={(more) => setPairs([...pairs, ...more].slice(0, 200))} />
        {pairs.length > 0 && (
          <div className="mt-2" style={{ maxWidth: 300 }}>
            <Form.Label htmlFor="common-u" className="small">
              all references share, ± {unit} (one standard deviation)
            </Form.Label>
            <Form.Control
              id="common-u"
              size="sm"
              style={{ width: 110 }}
              value={common}
              onChange={(e) => setCommon(e.target.value)}
              isInvalid={!uncertain.safeParse(common).success}
            />
            <p className="small soft mb-0">The class of the instrument. More pairs do not make it less.</p>
          </div>
        )}
        {counted.length > 0 && (
          <ModelTable all={all} chosen={fit?.model ?? 'line'} proposed={proposed} {...show} onChoose={setPicked} />
        )}
        {counted.length > 0 && !fit && (
          <p className="small" role="alert">
            Nothing can be made of these pairs yet. Take one at another level.
          </p>
        )}
        {fit && (
          <Outcome
            view={view}
            signalId={signalId}
            pairs={pairs}
            fit={fit}
            common={commonU}
            {...show}
            reference={against.record}
            quantity={channel.quantity}
            onKept={() => setPairs([])}
            onRecorded={() => setRecords((n) => n + 1)}
          />
        )}
      </section>
    </div>
  )
}

interface Shown {
  scale: number
  unit: string
  decimals: number
}

function InForce({
  nodeId,
  signalId,
  signal,
  scale,
  unit,
  decimals,
}: Shown & { nodeId: string; signalId: string; signal: Signal }) {
  const now = useClock()
  const { calibration } = signal
  if (!calibration) return <p>As sold: no calibration.</p>
  const { curve, gain, offset, points, date, span, expires } = calibration
  const past = expires !== null && now > 0 && Date.parse(expires) < now
  return (
    <p>
      {curve ? curveWords(curve) : `× ${fixed(gain, 4)} ${signed(offset * scale, decimals)} ${unit}`}, from {points}{' '}
      {points === 1 ? 'pair' : 'pairs'} on {date}
      {span && points > 1
        ? `, made between ${fixed(span.min * scale, decimals)} and ${fixed(span.max * scale, decimals)} ${unit}; beyond that it is a guess`
        : ''}
      .{' '}
      {expires !== null && (
        <span data-expires={expires} className={past ? 'fw-bold' : undefined}>
          {past
            ? `It was good until ${expires}: take pairs and check it.`
            : `Good until ${expires}, as such parts go.`}{' '}
        </span>
      )}
      <Button variant="bare" onClick={() => edit(nodeId, { kind: 'calibrate', signalId, calibration: null })}>
        drop it
      </Button>
    </p>
  )
}

interface PairFormProps extends Shown {
  view: NodeView
  signalId: string
  channel: Channel
  now: RawNow | null
  onTake: (pair: { raw: number; reference: number; u?: number; scatter?: number }) => void
}

/** One pair: the mean of the last seconds beside what a reference says, and how well that is known. */
function PairForm({ view, signalId, channel, now, scale, unit, decimals, onTake }: PairFormProps) {
  const [reference, setReference] = useState('')
  const [own, setOwn] = useState('')
  const [frozen, setFrozen] = useState<RawNow | null>(null)
  const [problem, setProblem] = useState('')
  const raw = frozen ?? now
  const listen = async () => {
    const a = await ask(`/api/nodes/${view.node.id}/close`, z.object({ kind: z.string() }), {
      signals: [signalId],
      everyMs: 100,
      forS: 60,
    })
    if (a.kind !== 'ok') say(a.error, 'refused')
  }
  const take = () => {
    const parsed = numberIn(-100_000, 1_000_000, unit).safeParse(reference)
    const u = uncertain.safeParse(own)
    if (!parsed.success) return setProblem(parsed.error.issues[0]?.message ?? '')
    if (!u.success) return setProblem(u.error.issues[0]?.message ?? '')
    if (raw === null) return
    setProblem('')
    setReference('')
    setFrozen(null)
    onTake({
      raw: raw.mean,
      reference: parsed.data / scale,
      ...(u.data === '' || u.data === 0 ? {} : { u: u.data / scale }),
      ...(raw.scatter === null || raw.scatter === 0 ? {} : { scatter: raw.scatter }),
    })
  }
  return (
    <>
      <p className="soft small mt-0 me-0 mb-2 ms-0">
        {raw === null || raw.n === 1 ? 'One reading' : `Mean of ${raw.n} readings in ${PAIR_S} s`}, before calibration:{' '}
        <b data-raw={raw?.mean ?? ''} style={{ color: 'var(--ink)' }}>
          {raw === null ? 'none' : `${fixed(raw.mean * scale, decimals)} ${unit}`}
        </b>
        {raw?.scatter ? ` ± ${fixed(raw.scatter * scale, decimals + 1)}` : ''}{' '}
        {raw !== null && (
          <Button variant="bare" onClick={() => setFrozen(frozen ? null : now)}>
            {frozen ? 'let it run' : 'hold it'}
          </Button>
        )}
        {!frozen && raw !== null && <Settling raw={raw} />}
      </p>
      <Form
        onSubmit={(e) => {
          e.preventDefault()
          take()
        }}
        className="d-flex gap-2 align-items-end flex-wrap"
      >
        <div style={{ width: 110 }}>
          <Form.Label htmlFor="reference">reference, {unit}</Form.Label>
          <Form.Control
            id="reference"
            value={reference}
            onChange={(e) => setReference(e.target.value)}
            isInvalid={problem !== ''}
            autoComplete="off"
          />
        </div>
        <div style={{ width: 70 }}>
          <Form.Label htmlFor="reference-u" title="standard uncertainty of this reference by itself">
            ± {unit}
          </Form.Label>
          <Form.Control id="reference-u" value={own} onChange={(e) => setOwn(e.target.value)} autoComplete="off" />
        </div>
        <Button type="submit" disabled={raw === null}>
          Take the pair
        </Button>
      </Form>
      {problem && (
        <div className="small" role="alert">
          {problem}
        </div>
      )}
      {raw === null && (
        <div className="small mt-2" role="status">
          No reading that can be paired: the node is silent, or runs another revision, or a curve cannot be undone.{' '}
          <Button variant="bare" onClick={() => void listen()}>
            Listen to the part itself
          </Button>{' '}
          for a minute: that is the same whatever runs.
          {view.node.design.sleep && ' It sleeps: it is asked at its next waking, and stays awake for it.'}
          {view.node.live.listening?.until === null && <b> It has been asked, and is waited for.</b>}
        </div>
      )}
      <DemoTape node={view.node.id} channel={channel} scale={scale} unit={unit} onTake={setReference} />
      <References
        quantity={channel.quantity}
        scale={scale}
        unit={unit}
        decimals={decimals}
        of={`${view.node.design.name} ${view.node.design.signals[signalId]?.tag ?? ''}`}
        onTake={(value, u) => {
          setReference(value)
          setOwn(u)
        }}
      />
    </>
  )
}

/** Whether it has come to rest, and how long it will take. */
function Settling({ raw: { settlesInS, moving } }: { raw: RawNow }) {
  if (settlesInS === 0 && !moving) return null
  if (settlesInS === null || settlesInS === 0)
    return moving ? <span className="d-block">It still moves: wait until it has settled.</span> : null
  return (
    <span className="d-block" data-settles={settlesInS}>
      It still moves, and will have settled to within its scatter in about {durationWords(settlesInS)}.
    </span>
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

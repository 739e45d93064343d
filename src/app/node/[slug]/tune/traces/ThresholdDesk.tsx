'use client'
import { useMemo, useState } from 'react'
import { Button, Form, ProgressBar } from 'react-bootstrap'
import type { Channel } from '@/core/catalog/part'
import type { Levels } from '@/core/catalog/levels'
import { type Design, inOrder, type Signal } from '@/core/model/design'
import { hueOf } from '@/core/palette/palette'
import { conditionTrace, type TraceChain } from '@/core/threshold/conditionTrace'
import { humpsOf } from '@/core/threshold/humps'
import { PRESENCE_PRICES, type Prices, priceOf, joined } from '@/core/threshold/price'
import { replay, type Threshold } from '@/core/threshold/replay'
import { type Proposal, sideOf } from '@/core/threshold/search'
import { type Trace, UNSURE } from '@/core/trace/trace'
import { fixed } from '@/core/units/format'
import { EditField } from '@/ui/fields/EditField'
import { numberIn } from '@/ui/fields/numberIn'
import { edit, newId, say } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'
import { FrontierChart } from './FrontierChart'
import { Field } from './MarkList'
import { TraceCurve } from './TraceCurve'
import { useSearch } from './useSearch'

type Reading = Extract<Channel, { access: 'reading' }>
interface DeskProps {
  view: NodeView
  signalId: string
  signal: Signal
  channel: Reading
  trace: Trace
  factor: number
}

const MEDIANS = [1, 3, 5, 7, 9] as const

/** A trace, the threshold on it, and what it would have done against the marks: proposed, dragged, and taken. */
export function ThresholdDesk({ view, signalId, signal, channel, trace, factor }: DeskProps) {
  const { unit, decimals } = signal.publish
  const words = [...new Set(trace.marks.map((m) => m.word))].filter((w) => w !== UNSURE)
  const word = words[0]
  const state = stateOf(view.node.design, signalId)
  const [t, setT] = useState<Proposal>(() => inForce(state?.signal.conditioning.levels, signal, channel, trace))
  const [prices, setPrices] = useState({
    missed: String(PRESENCE_PRICES.missed),
    minute: String(PRESENCE_PRICES.falseMinute),
  })
  const searching = useSearch()
  const series = useMemo(
    () => ({ s: Float64Array.from(trace.s), value: Float64Array.from(trace.value, (v) => v ?? NaN) }),
    [trace.s, trace.value],
  )
  const chain = useMemo(() => chainOf(signal, channel, t.median), [signal, channel, t.median])
  const value = useMemo(() => conditionTrace(chain, series), [chain, series])
  const truth = useMemo(() => joined(trace.marks.filter((m) => m.word === word)), [trace.marks, word])
  const unsure = useMemo(() => joined(trace.marks.filter((m) => m.word === UNSURE)), [trace.marks])
  const priced: Prices = {
    missed: Number(prices.missed) || 0,
    falseMinute: Number(prices.minute) || 0,
    graceS: PRESENCE_PRICES.graceS,
  }
  const on = useMemo(() => replay(t, series.s, value), [t, series, value])
  const price = word === undefined ? null : priceOf(on, truth, priced, unsure)
  const humps = useMemo(() => (word === undefined ? humpsOf(value) : null), [word, value])
  const shown = (v: number) => Number((v * factor).toPrecision(5))
  const set = (changed: Partial<Proposal>) => setT((before) => ({ ...before, ...changed }))
  const answer = searching.answer
  const propose = () =>
    searching.ask({
      series,
      chain: chainOf(signal, channel, 1),
      truth,
      unsure,
      prices: priced,
      on: sideOf(value, series.s, truth),
    })

  return (
    <div data-desk={word ?? ''} data-cost={price?.cost ?? ''}>
      <TraceCurve
        s={trace.s}
        value={value}
        factor={factor}
        unit={unit}
        hue={hueOf(signal)}
        label={trace.name}
        marks={trace.marks}
        cut={t.cut * factor}
        band={t.band * factor}
        missed={price?.missed}
        wrong={price?.wrong}
        decimals={decimals}
        onCut={(v) => set({ cut: v / factor })}
      />
      <p className="small mb-1">
        Drag the line: threshold {fixed(t.cut * factor, decimals)} {unit}, {word ?? 'on'} is {t.on} it.
      </p>
      <div className="d-flex gap-3 flex-wrap align-items-end">
        <EditField
          id="cut-typed"
          label="threshold"
          unit={unit}
          width={110}
          value={shown(t.cut)}
          schema={numberIn(-1e6, 1e6, unit)}
          onSave={(v) => set({ cut: v / factor })}
        />
        <Choice
          id="side"
          label={`${word ?? 'on'} is`}
          of={['below', 'above'] as const}
          value={t.on}
          onChange={(v) => set({ on: v })}
        />
        <Choice
          id="trace-median"
          label="median of"
          of={MEDIANS}
          value={t.median as 1}
          onChange={(median) => set({ median })}
        />
        <EditField
          id="band"
          label="band"
          unit={unit}
          width={100}
          value={shown(t.band)}
          schema={numberIn(0, 1e6, unit)}
          onSave={(v) => set({ band: v / factor })}
        />
        <EditField
          id="hold-on"
          label="counts after"
          unit="s"
          width={90}
          value={t.holdOnS}
          schema={numberIn(0, 86_400, 's')}
          onSave={(holdOnS) => set({ holdOnS })}
        />
        <EditField
          id="hold-off"
          label="gone after"
          unit="s"
          width={90}
          value={t.holdOffS}
          schema={numberIn(0, 86_400, 's')}
          onSave={(holdOffS) => set({ holdOffS })}
        />
      </div>
      {price && (
        <p className="pt-2" role="status" data-missed={price.missed.length} data-wrong={price.falseMinutes.toFixed(3)}>
          Over this trace: <b>{price.missed.length}</b> {price.missed.length === 1 ? 'time' : 'times'} missed,{' '}
          <b>{price.falseMinutes.toFixed(1)}</b> wrong minutes; cost <b>{price.cost.toFixed(1)}</b>.
        </p>
      )}
      {humps && (
        <p className="pt-2" role="status">
          Nothing is marked. {humps.words}{' '}
          {humps.cuts.map((c) => (
            <Button key={c} variant="bare" onClick={() => set({ cut: c })}>
              {fixed(c * factor, decimals)} {unit}
            </Button>
          ))}
        </p>
      )}
      <div className="d-flex gap-3 flex-wrap align-items-end pt-1">
        <Field
          id="price-missed"
          label="price of a miss"
          width={110}
          value={prices.missed}
          onChange={(missed) => setPrices({ ...prices, missed })}
        />
        <Field
          id="price-minute"
          label="of a wrong minute"
          width={130}
          value={prices.minute}
          onChange={(minute) => setPrices({ ...prices, minute })}
        />
        {searching.share === null ? (
          <Button disabled={word === undefined} onClick={propose}>
            Propose
          </Button>
        ) : (
          <Button variant="quiet" onClick={searching.stop}>
            Stop
          </Button>
        )}
        <Button variant="quiet" onClick={() => take(view, { id: signalId, signal }, t, word ?? 'on', state?.id)}>
          {state ? `Put it into ${state.signal.tag}` : 'Make a state of it'}
        </Button>
      </div>
      {searching.share !== null && (
        <ProgressBar className="mt-2" now={searching.share * 100} label={`${Math.round(searching.share * 100)} %`} />
      )}
      {answer && (
        <div className="pt-2" data-proposed={answer.best.proposal.cut}>
          <p className="mb-1">
            Proposed: {words[0]} {answer.best.proposal.on} {fixed(answer.best.proposal.cut * factor, decimals)} {unit},
            band {fixed(answer.best.proposal.band * factor, decimals)} {unit}, median of {answer.best.proposal.median},
            counts after {answer.best.proposal.holdOnS} s, gone after {answer.best.proposal.holdOffS} s: cost{' '}
            {answer.best.cost.toFixed(1)} of {answer.tried} tried.{' '}
            <Button variant="bare" onClick={() => setT(answer.best.proposal)}>
              lay it on
            </Button>
          </p>
          <FrontierChart frontier={answer.frontier} best={answer.best} hue={hueOf(signal)} onPick={setT} />
          <table className="table small" aria-label="frontier" style={{ maxWidth: 560 }}>
            <thead>
              <tr>
                <th scope="col">missed</th>
                <th scope="col">wrong minutes</th>
                <th scope="col">threshold</th>
                <th scope="col">gone after</th>
              </tr>
            </thead>
            <tbody>
              {answer.frontier.slice(0, 8).map((f) => (
                <tr key={f.missed}>
                  <td>{f.missed}</td>
                  <td>{f.falseMinutes.toFixed(1)}</td>
                  <td>
                    <Button variant="bare" onClick={() => setT(f.proposal)}>
                      {fixed(f.proposal.cut * factor, decimals)} {unit}
                    </Button>
                  </td>
                  <td>{f.proposal.holdOffS} s</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </div>
  )
}

const chainOf = (signal: Signal, channel: Reading, median: number): TraceChain => ({
  ...channel.range,
  median,
  averageS: signal.conditioning.averageS,
  mountM: signal.conditioning.mountM,
  calibration: signal.calibration,
})

/** The state of two words that is made of the reading, if there is one. */
function stateOf(design: Design, signalId: string): { id: string; signal: Signal } | undefined {
  const found = inOrder(design.signals).find(
    (s) => s.value.of === signalId && s.value.conditioning.levels?.words.length === 2,
  )
  return found && { id: found.id, signal: found.value }
}

/** What stands in the design now, or the middle of what the trace spans where nothing does. */
function inForce(levels: Levels | null | undefined, signal: Signal, channel: Reading, trace: Trace): Proposal {
  const { median } = signal.conditioning
  if (!levels) {
    const series = { s: Float64Array.from(trace.s), value: Float64Array.from(trace.value, (v) => v ?? NaN) }
    let [low, high] = [Infinity, -Infinity]
    for (const v of conditionTrace(chainOf(signal, channel, median), series)) {
      if (v < low) low = v
      if (v > high) high = v
    }
    const cut = low <= high ? (low + high) / 2 : (channel.range.min + channel.range.max) / 2
    return { median, cut, band: 0, on: 'below', holdOnS: 0, holdOffS: 0 }
  }
  const on: Threshold['on'] = levels.on === 1 ? 'above' : 'below'
  const [below = 0, above = 0] = levels.holdS
  return {
    median,
    cut: levels.cuts[0] ?? 0,
    band: levels.band,
    on,
    ...(on === 'above' ? { holdOnS: above, holdOffS: below } : { holdOnS: below, holdOffS: above }),
  }
}

/** A threshold into the design: the median of the reading, and the words of the state, which is made where none is. */
function take(
  view: NodeView,
  { id: signalId, signal }: { id: string; signal: Signal },
  t: Proposal,
  word: string,
  state: string | undefined,
): void {
  const { id, design } = view.node
  const old = state === undefined ? undefined : design.signals[state]?.conditioning.levels
  const [a, b] = [t.holdOffS, t.holdOnS]
  const words = old?.words ?? (t.on === 'above' ? ['quiet', word] : [word, 'nobody'])
  const levels: Levels = {
    words: [...new Set(words)].length === 2 ? [...words] : ['low', 'high'],
    cuts: [Number(t.cut.toPrecision(6))],
    band: Number(t.band.toPrecision(4)),
    holdS: t.on === 'above' ? [a, b] : [b, a],
    // No echo is nobody, after the hold.
    unknown: t.on === 'above' ? 0 : 1,
    on: t.on === 'above' ? 1 : 0,
  }
  const median = MEDIANS.find((m) => m === t.median) ?? 1
  if (signal.conditioning.median !== median && !edit(id, { kind: 'condition', signalId, set: { median } })) return
  const done =
    state === undefined
      ? edit(id, {
          kind: 'make-state',
          signalId: newId(),
          of: signalId,
          name: `${signal.name} ${word}`.slice(0, 60),
          letter: 'S',
          levels,
        })
      : edit(id, { kind: 'condition', signalId: state, set: { levels } })
  if (done) say('In the design. Send it, and the node goes by it.')
}

function Choice<T extends string | number>(props: {
  id: string
  label: string
  of: readonly T[]
  value: T
  onChange: (v: T) => void
}) {
  return (
    <div>
      <Form.Label htmlFor={props.id} className="small mb-0">
        {props.label}
      </Form.Label>
      <Form.Select
        id={props.id}
        size="sm"
        value={props.value}
        onChange={(e) => {
          const picked = props.of.find((v) => String(v) === e.target.value)
          if (picked !== undefined) props.onChange(picked)
        }}
      >
        {props.of.map((v) => (
          <option key={v}>{v}</option>
        ))}
      </Form.Select>
    </div>
  )
}

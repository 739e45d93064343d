'use client'
import type { Catalog } from '@/core/catalog/catalog'
import { unitFactor } from '@/core/units/convert'
import { SameOnOthers } from '@/ui/fields/SameOnOthers'
import { rulesInOrder } from '@/core/edits/sameOnOthers'
import { useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import type { Channel } from '@/core/catalog/part'
import { pressLatency } from '@/core/conditioning/presses'
import { byId, type Conditioning, type Design, type DesignRule, inOrder, type Signal } from '@/core/model/design'
import { isFollowing, isMoment, PATTERNS, START_STATES, type Trigger, triggerSchema } from '@/core/model/behaviour'
import { guardWords, ruleWords } from '@/core/nodefile/semanticDiff'
import { traitsOf } from '@/core/catalog/drivers'
import { farStart } from '@/core/catalog/startStates'
import { isTwoWayState } from '@/core/edits/channelOfId'
import { triggersOf } from '@/core/edits/triggerFits'
import { channelOf } from '@/core/publish/channelOf'
import { EditField } from '@/ui/fields/EditField'
import { numberIn } from '@/ui/fields/numberIn'
import type { Shop } from '@/core/shop/shop'
import { airSource, airSourceOf } from '@/core/model/airSource'
import { carriesSenders } from '@/core/catalog/codesFit'
import { edit, newId, say, useLive } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'
import { Ferrule } from '@/ui/thread/Ferrule'

interface Row {
  id: string
  signal: Signal
  channel: Channel
}
/** What a rule can wait for: a signal of the node, or what a sender says that it carries. */
interface Source {
  id: string
  words: string
  triggers: readonly Trigger[]
  shown: { factor: number; unit: string }
}
const START_WORDS: Record<(typeof START_STATES)[number], string> = {
  off: 'off',
  on: 'on',
  last: 'as it was',
  follow: 'as an input is',
  opposite: 'as an input is not',
}

/** Outputs, presses, guards and rules: what works on the node alone, with or without a network. */
export function Behaviour({ view }: { view: NodeView }) {
  const {
    node: { id, design },
    catalog,
  } = view
  const rows = inOrder(design.signals).flatMap(({ id: signalId, value }): Row[] => {
    const channel = channelOf(design, catalog, value)
    return channel ? [{ id: signalId, signal: value, channel }] : []
  })
  const { shop } = useLive()
  const board = catalog.boards[design.board.id]
  const carries = board !== undefined && carriesSenders(board)
  const outputs = rows.filter((r) => r.channel.access === 'output')
  // There is nothing to switch at what shows a text.
  const switched = outputs.filter((r) => r.channel.access === 'output' && r.channel.value !== 'text')
  const presses = rows.filter((r) => traitsOf(r.channel.driver).tells === 'presses')
  const states = rows.filter((r) => isTwoWayState(r.channel))
  return (
    <>
      {outputs.length > 0 && (
        <table className="table mt-2">
          <thead>
            <tr>
              <th scope="col">output</th>
              <th scope="col">at power-up</th>
              <th scope="col">on is a pulse of</th>
              <th scope="col">longest on</th>
            </tr>
          </thead>
          <tbody>
            {outputs.map((r) => (
              <OutputRow key={r.id} nodeId={id} row={r} states={states} />
            ))}
          </tbody>
        </table>
      )}
      {presses.length > 0 && (
        <table className="table">
          <thead>
            <tr>
              <th scope="col">input</th>
              <th scope="col">presses it tells</th>
              <th scope="col">gap</th>
              <th scope="col">long from</th>
              <th scope="col">told after</th>
            </tr>
          </thead>
          <tbody>
            {presses.map((r) => (
              <PressRow key={r.id} view={view} row={r} />
            ))}
          </tbody>
        </table>
      )}
      <h2 className="mt-3">Local rules and guards</h2>
      <p className="small soft">
        They work on the node alone. What an input says first, and first after being unknown, changes nothing: a rule
        waits for a change from there. A detached input does not switch what is beside it; “while alone” switches only
        while there is no broker, so that the wall switch still works.
      </p>
      <ul className="plain">
        {byId(design.guards).map(({ id: guardId, value: g }) => (
          <li key={guardId} data-guard={guardId}>
            {guardWords(
              g.kind === 'needs'
                ? { ...g, output: name(design, g.output), input: name(design, g.input) }
                : { ...g, of: g.of.map((s) => name(design, s)) },
            )}{' '}
            <Button variant="bare" onClick={() => edit(id, { kind: 'set-guard', guardId, guard: null })}>
              drop
            </Button>
          </li>
        ))}
        {rulesInOrder(design).map(({ id: ruleId, value: r }) => (
          <li key={ruleId} data-rule={ruleId}>
            {ruleWords(
              { ...r, from: sourceName(shop, r.from) ?? name(design, r.from), to: name(design, r.to) },
              shownUnit(design, catalog, r.from),
            )}{' '}
            <Button variant="bare" onClick={() => edit(id, { kind: 'set-rule', ruleId, rule: null })}>
              drop
            </Button>
          </li>
        ))}
      </ul>
      {switched.length > 0 ? (
        <NewRule
          nodeId={id}
          inputs={[...rows.flatMap(sourceOf), ...(carries ? heardBy(shop, id) : [])]}
          outputs={switched}
        />
      ) : (
        <p className="soft">This node has no output for a rule to act on.</p>
      )}
      {outputs.length > 0 && (states.length > 0 || outputs.length > 1) && (
        <NewGuard nodeId={id} outputs={outputs} states={states} />
      )}
    </>
  )
}

const name = (design: Design, id: string) => {
  const s = design.signals[id]
  return s ? `${s.tag} ${s.name}` : id
}
/** The unit a reading is shown in, and what leads there from its part's. */
function shownUnit(design: Design, catalog: Catalog, id: string) {
  const signal = design.signals[id]
  const channel = signal && channelOf(design, catalog, signal)
  if (!signal || channel?.access !== 'reading') return { factor: 1, unit: '' }
  return { factor: unitFactor(channel.unit, signal.publish.unit), unit: signal.publish.unit }
}
const condition = (nodeId: string, signalId: string, set: Partial<Conditioning>) =>
  edit(nodeId, { kind: 'condition', signalId, set })

function OutputRow({ nodeId, row: { id, signal, channel }, states }: { nodeId: string; row: Row; states: Row[] }) {
  const c = signal.conditioning
  const pulses = channel.driver === 'relay' || channel.driver === 'transmitter'
  const { starts = [], limited = false, far = false } = traitsOf(channel.driver)
  const choices = starts.filter((s) => !isFollowing(s) || states.length > 0)
  return (
    <tr data-behaves={signal.slug}>
      <td>
        <Ferrule signal={signal} />
        &ensp;{signal.name}
      </td>
      <td>
        <div className="d-flex gap-2">
          {far ? (
            farStart(c)
          ) : (
            <Form.Select
              aria-label={`${signal.name} at power-up`}
              style={{ width: 140 }}
              value={c.atStart}
              onChange={(e) => {
                const atStart = START_STATES.find((s) => s === e.target.value) ?? 'off'
                condition(nodeId, id, {
                  atStart,
                  ...(isFollowing(atStart) ? { follows: c.follows ?? states[0]?.id ?? null } : {}),
                })
              }}
            >
              {choices.map((s) => (
                <option key={s} value={s}>
                  {START_WORDS[s]}
                </option>
              ))}
            </Form.Select>
          )}
          {isFollowing(c.atStart) && (
            <Form.Select
              aria-label={`input ${signal.name} follows`}
              style={{ width: 150 }}
              value={c.follows ?? ''}
              onChange={(e) => condition(nodeId, id, { follows: e.target.value })}
            >
              {states.map((s) => (
                <option key={s.id} value={s.id}>
                  {s.signal.tag} {s.signal.name}
                </option>
              ))}
            </Form.Select>
          )}
        </div>
      </td>
      <td>
        {pulses ? (
          <EditField
            id={`${id}-pulse`}
            label={`pulse of ${signal.name}`}
            hideLabel
            width={110}
            unit="s"
            value={c.pulseS}
            schema={numberIn(0, 3600, 's')}
            onSave={(pulseS) => condition(nodeId, id, { pulseS })}
          />
        ) : (
          <span className="soft">–</span>
        )}
      </td>
      <td>
        {'longestOnS' in channel.proposes && limited ? (
          <EditField
            id={`${id}-longest`}
            label={`longest on of ${signal.name}`}
            hideLabel
            width={110}
            unit="s"
            value={c.longestOnS}
            schema={numberIn(0, 86_400, 's')}
            onSave={(longestOnS) => condition(nodeId, id, { longestOnS })}
          />
        ) : (
          <span className="soft">–</span>
        )}
      </td>
    </tr>
  )
}

function PressRow({ view, row: { id, signal } }: { view: NodeView; row: Row }) {
  const nodeId = view.node.id
  const c = signal.conditioning
  const times = { used: c.patterns, gapMs: c.gapMs, longMs: c.longMs, repeatMs: 300 }
  const toggle = (p: (typeof PATTERNS)[number]) => {
    const patterns = PATTERNS.filter((x) => (x === p ? !c.patterns.includes(x) : c.patterns.includes(x)))
    if (patterns.length > 0) condition(nodeId, id, { patterns })
  }
  const told = c.patterns.flatMap((p) => {
    const ms = pressLatency(times, p)
    return ms === null ? [] : [`${p} ${ms < 20 ? 'at once' : `${ms} ms`}`]
  })
  return (
    <tr data-presses={signal.slug}>
      <td className="text-nowrap">
        <Ferrule signal={signal} />
        &ensp;{signal.name}
      </td>
      <td>
        <div className="chips" role="group" aria-label={`presses of ${signal.name}`}>
          {PATTERNS.map((p) => (
            <button key={p} type="button" aria-pressed={c.patterns.includes(p)} onClick={() => toggle(p)}>
              {p}
            </button>
          ))}
        </div>
      </td>
      <td>
        <EditField
          id={`${id}-gap`}
          label={`gap of ${signal.name}`}
          hideLabel
          width={100}
          unit="ms"
          value={c.gapMs}
          schema={numberIn(100, 2000, 'ms')}
          onSave={(gapMs) => condition(nodeId, id, { gapMs })}
        />
      </td>
      <td>
        <EditField
          id={`${id}-long`}
          label={`long press of ${signal.name}`}
          hideLabel
          width={100}
          unit="ms"
          value={c.longMs}
          schema={numberIn(200, 5000, 'ms')}
          onSave={(longMs) => condition(nodeId, id, { longMs })}
        />
      </td>
      <td className="small">
        {told.join(', ')} <SameOnOthers view={view} signalId={id} />
      </td>
    </tr>
  )
}

const triggersFor = (c: Channel): Trigger[] => {
  switch (c.access) {
    case 'event':
      return triggersOf(c).flatMap((word) => triggerSchema.safeParse(word).data ?? [])
    case 'output':
      return [true, false]
    case 'state':
      return [...(c.told?.map((is) => ({ is })) ?? [true, false]), null, 'gone']
    case 'reading':
      return [{ above: 0 }, { below: 0 }, null, 'gone']
  }
}
const sourceOf = ({ id, signal, channel }: Row): Source[] => {
  const triggers = triggersFor(channel)
  const shown =
    channel.access === 'reading'
      ? { factor: unitFactor(channel.unit, signal.publish.unit), unit: signal.publish.unit }
      : { factor: 1, unit: '' }
  return triggers.length > 0 ? [{ id, words: `${signal.tag} ${signal.name}`, triggers, shown }] : []
}

/** What senders say that this node carries. */
const heardBy = (shop: Shop, nodeId: string): Source[] =>
  Object.entries(shop.senders)
    .filter(([, sender]) => sender.receivers.includes(nodeId))
    .flatMap(([senderId, sender]) =>
      Object.entries(sender.signals).map(([signalId, signal]): Source => ({
        id: airSource(senderId, signalId),
        words: `${sender.tag} ${sender.name}, ${signal.name}`,
        triggers:
          signal.kind === 'event'
            ? [...new Set(Object.values(signal.words))].map((says) => ({ says }))
            : [true, false, null],
        shown: { factor: 1, unit: '' },
      })),
    )

/** What a rule waits for on the air, in words; undefined for a signal of the node. */
function sourceName(shop: Shop, from: string): string | undefined {
  const ids = airSourceOf(from)
  if (!ids) return undefined
  const sender = shop.senders[ids.senderId]
  const signal = sender?.signals[ids.signalId]
  return sender && signal ? `${sender.tag} ${sender.name}, ${signal.name},` : 'a sender that is forgotten,'
}

const triggerName = (t: Trigger) => {
  if (t === null) return 'is unknown'
  if (t === 'gone') return 'is gone'
  if (t === true) return 'goes on'
  if (t === false) return 'goes off'
  if (typeof t === 'string') return t
  if ('is' in t) return `becomes ${t.is}`
  if ('says' in t) return `says ${t.says}`
  if ('above' in t) return 'rises above'
  return 'falls below'
}

/** The same crossing at another level. */
const crossing = (trigger: { above: number } | { below: number }, at: number, band: number): Trigger => ({
  ...('above' in trigger ? { above: at } : { below: at }),
  ...(band > 0 ? { band } : {}),
})

const numberOf = (text: string): number => Number(text.replace(',', '.'))

function NewRule({ nodeId, inputs, outputs }: { nodeId: string; inputs: Source[]; outputs: Row[] }) {
  const [from, setFrom] = useState(
    inputs.find((r) => r.triggers.some((t) => typeof t !== 'object'))?.id ?? inputs[0]?.id ?? '',
  )
  const [which, setWhich] = useState(0)
  const [level, setLevel] = useState('0')
  const [band, setBand] = useState('0')
  const [lasts, setLasts] = useState('0')
  const [to, setTo] = useState(outputs[0]?.id ?? '')
  const [does, setDoes] = useState('toggle')
  const [works, setWorks] = useState<DesignRule['works']>('always')
  const source = inputs.find((r) => r.id === from)
  const triggers = source?.triggers ?? []
  // “Is unknown” is null: a choice like the others, not a missing one.
  const trigger = triggers[which < triggers.length ? which : 0]
  if (!source || trigger === undefined) return null
  const crosses = typeof trigger === 'object' && trigger !== null && !('is' in trigger) && !('says' in trigger)
  const canLast = !isMoment(trigger) && trigger !== 'gone'
  const { shown } = source
  const add = () => {
    const numbers = [...(crosses ? [level, band] : []), ...(canLast ? [lasts] : [])].map(numberOf)
    if (!numbers.every(Number.isFinite) || (canLast && numberOf(lasts) < 0) || (crosses && numberOf(band) < 0))
      return say('Level, band and time are numbers, like 30 or 2.5; band and time are not negative.', 'refused')
    const when = crosses ? crossing(trigger, numberOf(level) / shown.factor, numberOf(band) / shown.factor) : trigger
    edit(nodeId, {
      kind: 'set-rule',
      ruleId: newId(),
      rule: {
        from,
        when,
        forS: canLast ? numberOf(lasts) : 0,
        to,
        do: does === 'toggle' ? 'toggle' : does === 'on',
        works,
      },
    })
  }
  return (
    <Form
      className="fields"
      onSubmit={(e) => {
        e.preventDefault()
        add()
      }}
      aria-label="new rule"
    >
      <div>
        <Form.Label htmlFor="r-from">when</Form.Label>
        <Form.Select
          id="r-from"
          value={from}
          onChange={(e) => {
            setFrom(e.target.value)
            setWhich(0)
          }}
        >
          {inputs.map((r) => (
            <option key={r.id} value={r.id}>
              {r.words}
            </option>
          ))}
        </Form.Select>
      </div>
      <div>
        <Form.Label htmlFor="r-when">does</Form.Label>
        <Form.Select id="r-when" value={which} onChange={(e) => setWhich(Number(e.target.value))}>
          {triggers.map((t, i) => (
            <option key={i} value={i}>
              {triggerName(t)}
            </option>
          ))}
        </Form.Select>
      </div>
      {crosses && (
        <div>
          <Form.Label htmlFor="r-level">{shown.unit}</Form.Label>
          <Form.Control
            id="r-level"
            style={{ width: 90 }}
            value={level}
            onChange={(e) => setLevel(e.target.value)}
            autoComplete="off"
          />
        </div>
      )}
      {crosses && (
        <div title="It comes back by this much before the same crossing counts again.">
          <Form.Label htmlFor="r-band">band, {shown.unit}</Form.Label>
          <Form.Control
            id="r-band"
            style={{ width: 90 }}
            value={band}
            onChange={(e) => setBand(e.target.value)}
            autoComplete="off"
          />
        </div>
      )}
      {canLast && (
        <div title="It has to last this long before the rule acts.">
          <Form.Label htmlFor="r-lasts">for, s</Form.Label>
          <Form.Control
            id="r-lasts"
            style={{ width: 80 }}
            value={lasts}
            onChange={(e) => setLasts(e.target.value)}
            autoComplete="off"
          />
        </div>
      )}
      <div>
        <Form.Label htmlFor="r-to">then</Form.Label>
        <Form.Select id="r-to" value={to} onChange={(e) => setTo(e.target.value)}>
          {outputs.map((r) => (
            <option key={r.id} value={r.id}>
              {r.signal.tag} {r.signal.name}
            </option>
          ))}
        </Form.Select>
      </div>
      <div>
        <Form.Label htmlFor="r-do">gets</Form.Label>
        <Form.Select id="r-do" value={does} onChange={(e) => setDoes(e.target.value)}>
          <option>toggle</option>
          <option>on</option>
          <option>off</option>
        </Form.Select>
      </div>
      <div>
        <Form.Label htmlFor="r-works">works</Form.Label>
        <Form.Select id="r-works" value={works} onChange={(e) => setWorks(e.target.value as DesignRule['works'])}>
          <option value="always">always</option>
          <option value="alone">while alone</option>
          <option value="detached">detached</option>
        </Form.Select>
      </div>
      <Button type="submit">Add the rule</Button>
    </Form>
  )
}

function NewGuard({ nodeId, outputs, states }: { nodeId: string; outputs: Row[]; states: Row[] }) {
  const [output, setOutput] = useState(outputs[0]?.id ?? '')
  const others = [
    ...states.flatMap((s) => [
      { key: `${s.id} on`, words: `only while ${s.signal.tag} ${s.signal.name} is on`, id: s.id },
      { key: `${s.id} off`, words: `only while ${s.signal.tag} ${s.signal.name} is off`, id: s.id },
    ]),
    ...outputs
      .filter((o) => o.id !== output)
      .map((o) => ({ key: `x ${o.id}`, words: `never together with ${o.signal.tag} ${o.signal.name}`, id: o.id })),
  ]
  const [other, setOther] = useState(others[0]?.key ?? '')
  const chosen = others.find((o) => o.key === other) ?? others[0]
  if (!chosen) return null
  const add = () =>
    edit(nodeId, {
      kind: 'set-guard',
      guardId: newId(),
      guard: chosen.key.startsWith('x ')
        ? { kind: 'exclusive', of: [output, chosen.id] }
        : { kind: 'needs', output, input: chosen.id, is: chosen.key.endsWith(' on') },
    })
  return (
    <Form
      className="fields pt-3"

      onSubmit={(e) => {
        e.preventDefault()
        add()
      }}
      aria-label="new guard"
    >
      <div>
        <Form.Label htmlFor="g-out">guard</Form.Label>
        <Form.Select id="g-out" value={output} onChange={(e) => setOutput(e.target.value)}>
          {outputs.map((r) => (
            <option key={r.id} value={r.id}>
              {r.signal.tag} {r.signal.name}
            </option>
          ))}
        </Form.Select>
      </div>
      <div>
        <Form.Label htmlFor="g-other">on</Form.Label>
        <Form.Select id="g-other" value={chosen.key} onChange={(e) => setOther(e.target.value)}>
          {others.map((o) => (
            <option key={o.key} value={o.key}>
              {o.words}
            </option>
          ))}
        </Form.Select>
      </div>
      <Button type="submit" variant="quiet">
        Add the guard
      </Button>
    </Form>
  )
}

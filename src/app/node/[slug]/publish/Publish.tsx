'use client'
import { useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { z } from 'zod'
import { inOrder, type Signal } from '@/core/model/design'
import { channelOf } from '@/core/publish/channelOf'
import { describe } from '@/core/publish/describe'
import type { NodeHealth } from '@/core/publish/payload'
import { DEFAULT_ROOT, topicsOf } from '@/core/publish/topics'
import { unitsFor } from '@/core/units/convert'
import type { ListedEntity } from '@/wire/protocol'
import { EditField } from '@/ui/fields/EditField'
import { numberIn } from '@/ui/fields/numberIn'
import { Margin } from '@/ui/findings/Margin'
import { ask } from '@/ui/live/api'
import { edit, say, useLive } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'
import { useClock } from '@/ui/live/useClock'
import { Ferrule } from '@/ui/thread/Ferrule'
import { Fact } from '@/ui/shell/Fact'
import { Bench } from '../Bench'
import { NowCell } from '../NowCell'
import { RunningFact } from '../RunningFact'

export function Publish() {
  return <Bench name="Publish">{(view) => <PublishOf view={view} />}</Bench>
}

function PublishOf({ view }: { view: NodeView }) {
  const {
    node: { id, design },
    derived,
    catalog,
  } = view
  const entities = useLive((s) => s.entities)
  const broker = useLive((s) => s.broker)
  const demo = useLive((s) => s.demo)
  const now = useClock()
  const [shown, setShown] = useState(false)
  const listed = entities.filter((e) => e.thing === `urn:uuid:${id}`)
  const topics = topicsOf(DEFAULT_ROOT, design.slug)
  return (
    <>
      <div className="title">
        <h1>Publish</h1>
        <Fact name="topics below" value={topics.base} />
        <Fact name="broker" value={`${broker.host}:${broker.port}`} />
        <Fact
          name="controller lists"
          value={listed.length === 0 ? 'nothing of this node' : `${listed.length} entities`}
        />
        <RunningFact view={view} />
      </div>
      <div className="place">
        <div className="work">
          <table className="table mt-1">
            <thead>
              <tr>
                <th scope="col">signal</th>
                <th scope="col">topic</th>
                <th scope="col">kept</th>
                <th scope="col">now</th>
                <th scope="col">as the controller lists it</th>
              </tr>
            </thead>
            <tbody>
              {derived.rows.map((row) => {
                const entity = listed.find((e) => e.id === `urn:uuid:${id}/${row.signal.slug}`)
                return (
                  <tr key={row.signalId} data-publishes={row.signal.slug}>
                    <td className="text-nowrap">
                      <Ferrule signal={row.signal} />
                      &ensp;{row.signal.name}
                    </td>
                    <td className="mono small text-nowrap">
                      {topics.signal(row.signal.slug)}
                      {row.access === 'output' && (
                        <>
                          <br />
                          {topics.set(row.signal.slug)}
                        </>
                      )}
                    </td>
                    <td className="small">{row.access === 'event' ? 'never' : 'yes'}</td>
                    <td className="now-said">
                      <NowCell view={view} row={row} now={now} />
                    </td>
                    <td>
                      <Listed entity={entity} signal={row.signal} demo={demo} />
                    </td>
                  </tr>
                )
              })}
              {[
                ['availability', topics.status, view.node.live.status?.is ?? 'never'],
                [
                  'health',
                  topics.health,
                  view.node.live.health
                    ? `up ${view.node.live.health.uptimeS} s, ${String(view.node.live.health.dbm ?? '–').replace('-', '−')} dBm, ${clockWords(view.node.live.health)}`
                    : 'never',
                ],
                ['description', topics.td, 'W3C Thing Description 1.1'],
              ].map(([name, topic, value]) => (
                <tr key={name}>
                  <td className="soft">{name}</td>
                  <td className="mono small text-nowrap">{topic}</td>
                  <td className="small">yes</td>
                  <td colSpan={2}>{value}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <h2 className="mt-4">How each is said</h2>
          <table className="table">
            <thead>
              <tr>
                <th scope="col">signal</th>
                <th scope="col">offered</th>
                <th scope="col">at least every</th>
                <th scope="col">decimals</th>
                <th scope="col">unit</th>
              </tr>
            </thead>
            <tbody>
              {inOrder(design.signals).map(({ id: signalId, value }) => (
                <How
                  key={signalId}
                  nodeId={id}
                  signalId={signalId}
                  signal={value}
                  units={unitsFor(channelOf(design, catalog, value)?.unit ?? '')}
                  reading={channelOf(design, catalog, value)?.access === 'reading'}
                />
              ))}
            </tbody>
          </table>
          <div className="mt-3 d-flex gap-2 flex-wrap">
            <Button variant="quiet" aria-expanded={shown} onClick={() => setShown(!shown)}>
              {shown ? 'Hide' : 'Show'} the announcement
            </Button>
            {demo && <Hands nodeId={id} slug={design.slug} />}
          </div>
          {shown && (
            <pre
              className="mono small mt-2 p-3"
              tabIndex={0}
              aria-label="announcement"
              style={{ maxHeight: 420, overflow: 'auto', background: 'var(--sheet)', border: '1px solid var(--hair)' }}
            >
              {JSON.stringify(describe(design, view.around, catalog, { ...broker, root: DEFAULT_ROOT }), null, 2)}
            </pre>
          )}
        </div>
        <aside className="margin" aria-label="margin">
          <Margin
            nodeId={id}
            design={design}
            findings={derived.findings.filter((f) => f.bench === 'publish')}
            all={derived.findings}
          />
          <Troubles base={topics.base} />
        </aside>
      </div>
    </>
  )
}

function How({
  nodeId,
  signalId,
  signal,
  units,
  reading,
}: {
  nodeId: string
  signalId: string
  signal: Signal
  units: string[]
  reading: boolean
}) {
  const save = (set: Partial<Signal['publish']>) => edit(nodeId, { kind: 'publish', signalId, set })
  return (
    <tr>
      <td>
        <Ferrule signal={signal} />
        &ensp;{signal.name}
      </td>
      <td>
        <Form.Check
          id={`${signalId}-entity`}
          aria-label={`${signal.name} is offered to the controller`}
          checked={signal.publish.entity}
          onChange={(e) => save({ entity: e.target.checked })}
        />
      </td>
      <td>
        <EditField
          id={`${signalId}-every`}
          label={`interval of ${signal.name}`}
          hideLabel
          width={120}
          unit="s"
          value={signal.publish.intervalS}
          schema={numberIn(0, 86_400, 's')}
          onSave={(intervalS) => save({ intervalS })}
        />
      </td>
      <td>
        {reading && (
          <EditField
            id={`${signalId}-decimals`}
            label={`decimals of ${signal.name}`}
            hideLabel
            width={70}
            value={signal.publish.decimals}
            schema={numberIn(0, 6, '').pipe(z.int('Whole decimals only.'))}
            onSave={(decimals) => save({ decimals })}
          />
        )}
      </td>
      <td>
        {reading && units.length > 1 ? (
          <Form.Select
            aria-label={`unit of ${signal.name}`}
            style={{ width: 90 }}
            value={signal.publish.unit}
            onChange={(e) => save({ unit: e.target.value })}
          >
            {units.map((u) => (
              <option key={u}>{u}</option>
            ))}
          </Form.Select>
        ) : (
          signal.publish.unit
        )}
      </td>
    </tr>
  )
}

/** What the controller shows for this signal, found by announcement alone; and its own switch. */
function Listed({ entity, signal, demo }: { entity: ListedEntity | undefined; signal: Signal; demo: boolean }) {
  if (!entity) return <span className="soft">not listed</span>
  const ask2 = async () => {
    const answer = await ask('/api/standin', z.object({}), {
      controller: { entity: entity.id, value: entity.value !== true },
    })
    if (answer.kind !== 'ok') say(answer.error, 'refused')
  }
  const otherWords = entity.value === null ? '–' : String(entity.value)
  const offWords = entity.value === false ? 'off' : otherWords
  return (
    <span data-listed={signal.slug} data-listed-value={String(entity.value)}>
      {entity.name}: <b>{entity.value === true ? 'on' : offWords}</b>
      {!entity.available && ', unavailable'}
      {demo && entity.command !== null && entity.kind === 'switch' && (
        <>
          <br />
          <Button variant="bare" className="small" onClick={() => void ask2()}>
            switch it from the controller
          </Button>
        </>
      )}
    </span>
  )
}

/** Demo only: what a person beside the node would do. */
function Hands({ nodeId, slug }: { nodeId: string; slug: string }) {
  const [cut, setCut] = useState(false)
  const send = async (body: object, done: string) => {
    const answer = await ask('/api/standin', z.object({}), { board: slug, deed: body })
    if (answer.kind === 'ok') say(done)
    else say(answer.error, 'refused')
  }
  return (
    <span data-node={nodeId} className="d-flex gap-2">
      <Button variant="quiet" onClick={() => void send({ press: 120 }, 'Somebody pressed the button at the tank.')}>
        Demo: press the button
      </Button>
      <Button
        variant="quiet"
        aria-pressed={cut}
        onClick={() => {
          setCut(!cut)
          void send({ cut: !cut }, cut ? 'The antenna is back on.' : 'The antenna is off: watch what happens.')
        }}
      >
        Demo: {cut ? 'restore the link' : 'cut the link'}
      </Button>
    </span>
  )
}

/** Messages of this node that were refused or made no sense. */
function Troubles({ base }: { base: string }) {
  const all = useLive((s) => s.troubles)
  const troubles = all.filter((t) => t.topic === '' || t.topic.startsWith(`${base}/`)).slice(0, 8)
  if (troubles.length === 0) return null
  return (
    <section aria-label="odd messages">
      <h2 className="mt-3">refused or odd</h2>
      {troubles.map((t) => (
        <p key={t.at + t.topic} className="small my-2 mx-0">
          {new Date(t.at).toLocaleTimeString('en-GB')} <span className="mono">{t.topic}</span>
          {t.times > 1 && <span className="soft"> {t.times} times</span>}
          <br />
          {t.what}
        </p>
      ))}
    </section>
  )
}

/** Whether it knows the time, from whom, and how far its own clock goes wrong. */
function clockWords({ clock }: NodeHealth): string {
  if (!clock) return 'knows no time'
  const from = clock.by === 'sntp' ? 'has the time from its network' : 'has the time from the broker'
  if (clock.ppm === null) return from
  const way = clock.ppm > 0 ? 'slow' : 'fast'
  return `${from}, its own clock ${Math.abs(clock.ppm)} · 10⁻⁶ ${way}`
}

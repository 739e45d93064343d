'use client'
import { useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { z } from 'zod'
import type { Signal } from '@/core/model/design'
import { asyncApi, payloadSchemas } from '@/core/publish/asyncApi'
import { type BrokerAddress, describe } from '@/core/publish/describe'
import { csvOfTable, entitySheet, sheetTable } from '@/core/publish/entitySheet'
import { goneAfterS } from '@/core/publish/staleness'
import type { NodeHealth } from '@/core/publish/payload'
import { DEFAULT_ROOT, topicsOf } from '@/core/publish/topics'
import type { ListedEntity } from '@/wire/protocol'
import { Groups } from '@/ui/entities/Groups'
import { SheetFaults } from '@/ui/entities/SheetFaults'
import { SheetTable } from '@/ui/entities/SheetTable'
import { useSheet } from '@/ui/entities/useSheet'
import { saveFile } from '@/ui/files/saveFile'
import { ProofSection } from '@/ui/proof/ProofSection'
import { Margin } from '@/ui/findings/Margin'
import { ask } from '@/ui/live/api'
import { say, useLive } from '@/ui/live/store'
import type { NodeView } from '@/ui/live/useNode'
import { useClock } from '@/ui/live/useClock'
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
  const [form, setForm] = useState<FormName>('Thing Description')
  const all = useSheet().rows
  const rows = all.filter((r) => r.nodeId === id)
  const chosen = FORMS.find((f) => f.name === form) ?? FORMS[0]
  const text = shown ? chosen.text(view, { ...broker, root: DEFAULT_ROOT }) : ''
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
          <p className="small soft no-print">
            Arrows move, Enter changes, Space marks rows and a change goes to all marked ones; T copies the topic, C
            that of the command, I the identity.
          </p>
          <SheetTable
            rows={rows}
            whole={false}
            now={(row) => {
              const of = derived.rows.find((r) => r.signalId === row.signalId)
              const entity = listed.find((e) => e.id === row.entityId)
              return (
                <>
                  {of && <NowCell view={view} row={of} now={now} />}
                  <small className="d-block">
                    <Listed entity={entity} signal={row.signal} demo={demo} />
                  </small>
                </>
              )
            }}
          />
          <OwnTopics view={view} topics={topics} />
          <Groups nodeId={id} design={design} catalog={catalog} />
          <ProofSection node={id} />
          <h2 className="mt-4">The announcement</h2>
          <div className="mt-3 d-flex gap-2 flex-wrap">
            <Form.Select
              aria-label="form of the announcement"
              className="w-auto"
              value={form}
              onChange={(e) => setForm(e.target.value as FormName)}
            >
              {FORMS.map((f) => (
                <option key={f.name}>{f.name}</option>
              ))}
            </Form.Select>
            <Button variant="quiet" aria-expanded={shown} onClick={() => setShown(!shown)}>
              {shown ? 'Hide' : 'Show'} it
            </Button>
            <Button
              variant="quiet"
              onClick={() =>
                saveFile(
                  `${design.slug}-${chosen.file}`,
                  chosen.type,
                  chosen.text(view, { ...broker, root: DEFAULT_ROOT }),
                )
              }
            >
              Save it
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
              {text}
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
          <SheetFaults rows={all} nodeId={id} />
          <Troubles base={topics.base} />
        </aside>
      </div>
    </>
  )
}

const asJson = (json: unknown): string => JSON.stringify(json, null, 2)

/** Forms the same contract is told in. */
const FORMS = [
  {
    name: 'Thing Description',
    file: 'td.json',
    type: 'application/td+json',
    text: ({ node: { design }, around, catalog }: NodeView, at: BrokerAddress) =>
      asJson(describe(design, around, catalog, at)),
  },
  {
    name: 'AsyncAPI 3.0',
    file: 'asyncapi.json',
    type: 'application/json',
    text: ({ node: { design }, around, catalog }: NodeView, at: BrokerAddress) =>
      asJson(asyncApi(design, around, catalog, at)),
  },
  {
    name: 'JSON Schema of each payload',
    file: 'payloads.json',
    type: 'application/schema+json',
    text: ({ node: { design }, catalog }: NodeView, at: BrokerAddress) =>
      asJson(payloadSchemas(design, catalog, at.root)),
  },
  {
    name: 'sheet to copy by hand',
    file: 'entities.csv',
    type: 'text/csv',
    text: ({ node: { id, design }, around, catalog }: NodeView, at: BrokerAddress) =>
      csvOfTable(sheetTable(entitySheet([{ id, design, place: around.place }], catalog, at.root))),
  },
] as const
type FormName = (typeof FORMS)[number]['name']

/** What every node says of itself, beside its signals. */
function OwnTopics({ view, topics }: { view: NodeView; topics: ReturnType<typeof topicsOf> }) {
  const { health, status } = view.node.live
  const healthWords = health
    ? `up ${health.uptimeS} s, ${String(health.dbm ?? '–').replace('-', '−')} dBm, ${clockWords(health)}`
    : 'never'
  const keepAliveS = view.node.design.network.keepAliveS
  return (
    <p className="small soft">
      Beside them: <span className="mono">{topics.status}</span> is {status?.is ?? 'never heard'} and tells it gone{' '}
      {goneAfterS(keepAliveS)} s after its last word; <span className="mono">{topics.health}</span> {healthWords};{' '}
      <span className="mono">{topics.td}</span>. All kept by the broker.
    </p>
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

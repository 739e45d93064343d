'use client'
import { useState } from 'react'
import { Button, Form } from 'react-bootstrap'
import { z } from 'zod'
import { billOf } from '@/core/bill/bill'
import { traitsOf } from '@/core/catalog/drivers'
import type { Terminal } from '@/core/catalog/part'
import { jointsOf } from '@/core/edits/joints'
import { type Design, inOrder, nameSchema, RESERVED_SLUGS, type Signal, slugSchema } from '@/core/model/design'
import { slugFrom } from '@/core/model/slug'
import { busOf } from '@/core/lines/lines'
import { EditField } from '@/ui/fields/EditField'
import { numberIn } from '@/ui/fields/numberIn'
import { Margin } from '@/ui/findings/Margin'
import { edit, editAll, newId, say } from '@/ui/live/store'
import { useKeys } from '@/ui/keys/useKeys'
import type { NodeView } from '@/ui/live/useNode'
import { Ferrule } from '@/ui/thread/Ferrule'
import { Fact } from '@/ui/shell/Fact'
import { freeLabel } from '@/core/edits/freeLabel'
import { AddPart } from '../AddPart'
import { Terminals } from './Terminals'
import { Bench } from '../Bench'
import { BillOfParts, money } from './BillOfParts'
import { ShelfSearch } from './ShelfSearch'
import { Sleep } from './Sleep'
import { WireSearch } from './WireSearch'

export function Parts() {
  return <Bench name="Parts">{(view) => <PartsOf view={view} />}</Bench>
}

/** The search of the shelf, below all parts of the node. */
function toShelf(): void {
  const field = document.getElementById('shelf-wish')
  field?.scrollIntoView({ block: 'center' })
  field?.focus()
}

function PartsOf({ view }: { view: NodeView }) {
  const { node, derived } = view
  const [adding, setAdding] = useState(false)
  const parts = inOrder(node.design.parts)
  useKeys({ n: toShelf })
  return (
    <>
      <div className="title">
        <h1>Parts</h1>
        <Button variant="bare" className="small" onClick={toShelf}>
          <kbd>N</kbd>&ensp;to the shelf
        </Button>
        <BoardChoice view={view} />
        <Fact name="parts" value={String(parts.length)} />
        <Fact name="signals" value={String(Object.keys(node.design.signals).length)} />
        <Fact name="cost" value={money(billOf(node.design, view.catalog).total)} />
        <Sleep view={view} />
        <a className="small" href={`/api/nodes/${node.id}/design`} download>
          design file
        </a>
      </div>
      <div className="place">
        <div className="work">
          {parts.map(({ id }) => (
            <PartRow key={id} view={view} partId={id} />
          ))}
          <div className="pt-3 pe-0 pb-2 ps-0">
            <Button onClick={() => setAdding(true)}>Add a part: what should it know or do?</Button>
          </div>
          <ShelfSearch view={view} />
          <BillOfParts view={view} />
        </div>
        <aside className="margin" aria-label="margin">
          <Margin nodeId={node.id} design={node.design} findings={derived.findings} />
        </aside>
      </div>
      <AddPart view={view} show={adding} onHide={() => setAdding(false)} />
    </>
  )
}

/** Which bus a part sits on, where there is a choice. */
function BusChoice({ view, partId }: { view: NodeView; partId: string }) {
  const {
    node: { id, design },
    catalog,
  } = view
  const part = design.parts[partId]
  const bus = catalog.parts[part?.kind ?? '']?.terminals.flatMap((t) =>
    t.role === 'line' && t.bus ? [t.bus.kind] : [],
  )[0]
  if (!part || bus === undefined || bus === 'uart') return null
  const branches = inOrder(design.parts).filter(
    ({ id: m, value }) => value.kind === 'mux-i2c-8' && m !== partId && bus === 'i2c',
  )
  const choices = [
    ['a', 'bus A'],
    ['b', 'bus B'],
    ...(bus === 'one-wire' ? [['own', 'a line of its own']] : []),
    ...branches.flatMap(({ id: m, value }) =>
      [0, 1, 2, 3, 4, 5, 6, 7].map((n) => [`${m}:${n}`, `${value.label} branch ${n}`]),
    ),
  ]
  return (
    <div>
      <Form.Label htmlFor={`${partId}-bus`}>on</Form.Label>
      <Form.Select
        id={`${partId}-bus`}
        value={busOf(part, bus)}
        onChange={(e) => edit(id, { kind: 'set-bus', partId, bus: e.target.value })}
      >
        {choices.map(([value, words]) => (
          <option key={value} value={value}>
            {words}
          </option>
        ))}
      </Form.Select>
    </div>
  )
}

/** What a terminal is fed from or joined to: supplies, contacts with what they switch, returns of loads on a stage. */
function JointChoice({ view, partId, terminal }: { view: NodeView; partId: string; terminal: Terminal }) {
  const {
    node: { id, design },
    board,
    catalog,
  } = view
  const joints = jointsOf(design, board, catalog, partId, terminal)
  const now = design.parts[partId]?.feeds[terminal.id]
  if (joints.length === 0 && now === undefined && terminal.role !== 'supply') return null
  const hangs = inOrder(design.parts).flatMap(({ value }) =>
    Object.entries(value.feeds).flatMap(([t, at]) =>
      at === `${partId}.${terminal.id}`
        ? [`${value.label} ${catalog.parts[value.kind]?.terminals.find((x) => x.id === t)?.label ?? t}`]
        : [],
    ),
  )
  const back = terminal.role === 'ground' ? 'its supply’s 0 V' : 'nothing'
  const unfed = terminal.role === 'supply' ? 'nothing yet' : back
  const rest = hangs.length > 0 ? hangs.join(', ') : unfed
  const joinWords = terminal.role === 'ground' ? 'returns to' : 'joined to'
  return (
    <div>
      <Form.Label htmlFor={`${partId}-${terminal.id}`}>
        {terminal.label} {terminal.role === 'supply' ? 'fed from' : joinWords}
      </Form.Label>
      <Form.Select
        id={`${partId}-${terminal.id}`}
        value={now ?? ''}
        onChange={(e) => edit(id, { kind: 'feed', partId, terminal: terminal.id, rail: e.target.value || null })}
      >
        <option value="">{rest}</option>
        {joints.map((j) => (
          <option key={j.id} value={j.id}>
            {j.words}
          </option>
        ))}
        {now !== undefined && !joints.some((j) => j.id === now) && <option value={now}>{now}</option>}
      </Form.Select>
    </div>
  )
}

/** What measures an analog part: a pin of the board, or an input of a converter on the bus. */
function HostChoice({ view, partId }: { view: NodeView; partId: string }) {
  const {
    node: { id, design },
    catalog,
  } = view
  const part = design.parts[partId]
  const hosts = inOrder(design.parts).flatMap(({ id: hostId, value }) =>
    (catalog.parts[value.kind]?.terminals ?? []).flatMap((t) =>
      t.role === 'contact' && t.does?.kind === 'input'
        ? [{ id: `${hostId}:${t.does.number}`, words: `${value.label} ${t.label}` }]
        : [],
    ),
  )
  const analog = catalog.parts[part?.kind ?? '']?.terminals.some((t) => t.role === 'line' && t.needs === 'analog')
  if (!part || !analog || hosts.length === 0) return null
  return (
    <div>
      <Form.Label htmlFor={`${partId}-host`}>measured by</Form.Label>
      <Form.Select
        id={`${partId}-host`}
        value={part.bus ?? ''}
        onChange={(e) => edit(id, { kind: 'set-bus', partId, bus: e.target.value || null })}
      >
        <option value="">a pin of the board</option>
        {hosts.map((h) => (
          <option key={h.id} value={h.id}>
            {h.words}
          </option>
        ))}
      </Form.Select>
    </div>
  )
}

function BoardChoice({ view }: { view: NodeView }) {
  const { node, catalog } = view
  return (
    <div className="fact">
      <label htmlFor="board">board</label>
      <Form.Select
        id="board"
        value={node.design.board.id}
        className="w-auto"
        onChange={(e) => {
          if (edit(node.id, { kind: 'choose-board', board: e.target.value }))
            say('Board changed; parts, signals and names stay, pins are planned anew.')
        }}
      >
        {Object.values(catalog.boards).map((b) => (
          <option key={b.id} value={b.id}>
            {b.name}
          </option>
        ))}
      </Form.Select>
    </div>
  )
}

const choice = (choices: string[]) => z.string().refine((v) => choices.includes(v))

const slugsBut = (design: Design, id: string): string[] =>
  Object.entries(design.signals).flatMap(([other, s]) => (other === id ? [] : [s.slug]))

/** After a new name: the topic may come along, or stay what others listen to. */
function TopicAlong({ slug, now, onTake }: { slug: string; now: string; onTake: (slug: string) => void }) {
  if (slug === now) return null
  return (
    <Button
      variant="quiet"
      className="small"
      title="Whoever listens to the old topic has to follow."
      onClick={() => onTake(slug)}
    >
      topic too: {slug}
    </Button>
  )
}

function PartRow({ view, partId }: { view: NodeView; partId: string }) {
  const {
    node: { id: nodeId, design },
    catalog,
  } = view
  const [renamed, setRenamed] = useState<string | null>(null)
  const part = design.parts[partId]
  const kind = part && catalog.parts[part.kind]
  if (!part || !kind) return null
  const signals = inOrder(design.signals).filter(({ value }) => value.partId === partId)
  // What still wants deciding is open; the rest is a key away.
  const unsettled = view.derived.findings.some((f) => f.partId === partId && f.severity !== 'note' && !f.caution)
  const unused = kind.channels.filter(
    (c) => traitsOf(c.driver).many || !signals.some(({ value }) => value.channel === c.id),
  )
  return (
    <section id={partId} className="list-row part-row" aria-label={part.label} data-part={part.kind}>
      <div>
        <EditField
          id={`${partId}-label`}
          label="name of the part"
          hideLabel
          value={part.label}
          schema={nameSchema}
          onSave={(label) => edit(nodeId, { kind: 'rename-part', partId, label })}
        />
        <div className="soft small mt-1">{kind.name}</div>
        <Terminals view={view} partId={partId} />
      </div>
      <div className="gap-2" style={{ display: 'grid' }}>
        {signals.map(({ id, value: s }) => (
          <div key={id} className="fields align-items-center">
            <Ferrule signal={s} />
            <EditField
              id={`${id}-name`}
              label={`name of ${s.tag}`}
              hideLabel
              width={165}
              value={s.name}
              schema={nameSchema}
              onSave={(name) => {
                if (edit(nodeId, { kind: 'rename-signal', signalId: id, name, slug: s.slug })) setRenamed(id)
              }}
            />
            <span className="soft small">topic …/</span>
            <EditField
              id={`${id}-slug`}
              label={`topic of ${s.tag}`}
              hideLabel
              width={168}
              value={s.slug}
              schema={slugSchema}
              onSave={(slug) => edit(nodeId, { kind: 'rename-signal', signalId: id, name: s.name, slug })}
            />
            {renamed === id && (
              <TopicAlong
                slug={slugFrom(s.name, slugsBut(design, id))}
                now={s.slug}
                onTake={(slug) => {
                  if (edit(nodeId, { kind: 'rename-signal', signalId: id, name: s.name, slug })) setRenamed(null)
                }}
              />
            )}
            <Button
              variant="bare"
              className="small"
              aria-label={`remove signal ${s.tag}`}
              onClick={() => edit(nodeId, { kind: 'remove-signal', signalId: id })}
            >
              remove
            </Button>
          </div>
        ))}
        {unused.map((c) => (
          <div key={c.id}>
            <Button
              variant="bare"
              className="small"
              onClick={() => edit(nodeId, { kind: 'add-signal', partId, signal: { id: newId(), channel: c.id } })}
            >
              make its {c.name} known
            </Button>
          </div>
        ))}
        <details className="part-settings" open={unsettled}>
          <summary>feeds and settings</summary>
          <div className="fields pt-2">
            {kind.terminals.map((t) => (
              <JointChoice key={t.id} view={view} partId={partId} terminal={t} />
            ))}
            <BusChoice view={view} partId={partId} />
            <HostChoice view={view} partId={partId} />
            <WireSearch view={view} partId={partId} />
            {kind.settings.map((s) =>
              'choices' in s ? (
                <div key={s.id}>
                  <Form.Label htmlFor={`${partId}-${s.id}`}>{s.label}</Form.Label>
                  <Form.Select
                    id={`${partId}-${s.id}`}
                    title={s.why}
                    value={String(part.settings[s.id] ?? s.default)}
                    onChange={(e) => {
                      const parsed = choice(s.choices.map((c) => c.id)).safeParse(e.target.value)
                      if (parsed.success) edit(nodeId, { kind: 'set-part', partId, setting: s.id, value: parsed.data })
                    }}
                  >
                    {s.choices.map((c) => (
                      <option key={c.id} value={c.id}>
                        {c.label}
                      </option>
                    ))}
                  </Form.Select>
                </div>
              ) : (
                <EditField
                  key={s.id}
                  id={`${partId}-${s.id}`}
                  label={s.label}
                  unit={s.unit}
                  width={250}
                  value={Number(part.settings[s.id] ?? s.default)}
                  schema={numberIn(s.min, s.max, s.unit)}
                  onSave={(value) => edit(nodeId, { kind: 'set-part', partId, setting: s.id, value })}
                />
              ),
            )}
          </div>
        </details>
      </div>
      <div className="gap-2" style={{ display: 'grid' }}>
        <Button
          variant="quiet"
          aria-label={`copy ${part.label}`}
          onClick={() => {
            const label = freeLabel(part.label.replace(/ \d+$/, ''), design)
            const slugs = Object.values(design.signals).map((s) => s.slug)
            const ids = new Map(signals.map(({ id }) => [id, newId()]))
            const named = (s: Signal) => {
              const slug = slugFrom(s.name, [...slugs, ...RESERVED_SLUGS])
              slugs.push(slug)
              return { name: slug.replaceAll('-', ' '), slug }
            }
            const wishes = signals.flatMap(({ id, value: s }) =>
              s.of === null ? [{ id: ids.get(id) ?? newId(), channel: s.channel, ...named(s) }] : [],
            )
            const made = signals.flatMap(({ id, value: s }) => {
              const [signalId, of, { levels }] = [ids.get(id), ids.get(s.of ?? ''), s.conditioning]
              return signalId !== undefined && of !== undefined && levels
                ? [{ kind: 'make-state' as const, signalId, of, levels, letter: s.tag.charAt(0), ...named(s) }]
                : []
            })
            const copy = { kind: 'copy-part' as const, partId, newId: newId(), label, signals: wishes }
            if (editAll(nodeId, [copy, ...made])) say(`${label} added with the same settings.`)
          }}
        >
          Copy
        </Button>
        <Button
          variant="quiet"
          aria-label={`remove ${part.label}`}
          onClick={() => {
            if (edit(nodeId, { kind: 'remove-part', partId })) say(`${part.label} removed. Ctrl-Z brings it back.`)
          }}
        >
          Remove
        </Button>
      </div>
    </section>
  )
}

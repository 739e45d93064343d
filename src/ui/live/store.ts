import { z } from 'zod'
import { create } from 'zustand'
import { builtInCatalog, type Catalog, withItems } from '../../core/catalog/catalog'
import { applyEdit } from '../../core/edits/apply'
import { type Change, invertChanges } from '../../core/documents/changes'
import type { Design } from '../../core/model/design'
import { type EditBody, editBodySchema } from '../../core/edits/edit'
import { editWords } from '../../core/edits/apply'
import type {
  Counts,
  ListedEntity,
  LiveEvent,
  NetworkCarriers,
  NodeLive,
  NodeState,
  ShopView,
  Snapshot,
  StandInBoard,
  Tape,
  Trouble,
} from '../../wire/protocol'
import { ask } from './api'
import { chosenBy, type PendingEdit, rebase } from './rebase'

/** What one gesture did, and the edits that take it back, in the order they are to be made. */
interface Step {
  words: string
  backs: EditBody[]
}

export interface ClientNode {
  id: string
  /** As the server has it, at `seq`. */
  server: Design
  seq: number
  /** With this tab's unsaved edits on top: what the screen shows. */
  design: Design
  pending: PendingEdit[]
  undo: Step[]
  redo: Step[]
  live: NodeLive
}

export type Link = 'connecting' | 'up' | 'lost'
export type Saving = { state: 'saved'; at: number | null } | { state: 'saving' } | { state: 'waiting' }

/** Something the page has to say about what was just done. */
export interface Said {
  id: number
  tone: 'refused' | 'told'
  text: string
  accepts: string | null
}

interface State {
  link: Link
  loaded: boolean
  nodes: Record<string, ClientNode>
  order: string[]
  entities: ListedEntity[]
  tapes: Record<string, Tape>
  /** Demo only: the simulated boards. */
  boards: Record<string, StandInBoard>
  counts: Counts
  troubles: Trouble[]
  demo: boolean
  shop: ShopView
  /** Networks and which nodes get in with their present password. */
  carriers: NetworkCarriers[]
  /** Everything on the shelf. */
  catalog: Catalog
  saving: Saving
  said: Said | null
  /** Thread a person is busy with: it is lit on every bench. */
  thread: string | null
}

const noCounts: Counts = {
  received: 0,
  refused: 0,
  odd: 0,
  perMinute: 0,
  clients: 0,
  storing: { waiting: 0, setAside: 0, failing: null, storedAt: null },
  held: null,
}

export const useLive = create<State>(() => ({
  link: 'connecting',
  loaded: false,
  nodes: {},
  order: [],
  entities: [],
  tapes: {},
  boards: {},
  counts: noCounts,
  troubles: [],
  demo: false,
  carriers: [],
  catalog: builtInCatalog,
  shop: {
    name: '',
    places: [],
    networks: [],
    broker: { host: '', port: 0, kind: 'own', link: { up: true, why: null } },
  },
  saving: { state: 'saved', at: null },
  said: null,
  thread: null,
}))

const get = useLive.getState
const set = useLive.setState
const RETRY_MS = 1500
let saidCount = 0

/** Lights a thread on every bench; null lets it go. */
export function lightThread(signalId: string | null): void {
  if (get().thread !== signalId) set({ thread: signalId })
}

export function say(text: string, tone: Said['tone'] = 'told', accepts: string | null = null): void {
  set({ said: { id: ++saidCount, tone, text, accepts } })
}

function put(node: ClientNode): void {
  set((s) => ({ nodes: { ...s.nodes, [node.id]: node } }))
}

export function setLink(link: Link): void {
  if (get().link !== link) set({ link })
}

/** Everything anew, as after a start or a gap in the stream. Unsaved edits of this tab stay on top. */
export function takeSnapshot(s: Snapshot): void {
  set({ catalog: withItems(builtInCatalog, s.items) })
  const before = get().nodes
  const nodes = Object.fromEntries(s.nodes.map((n) => [n.id, clientNode(n, before[n.id])]))
  set({
    loaded: true,
    nodes,
    order: s.nodes.map((n) => n.id),
    entities: s.entities,
    tapes: s.tapes,
    boards: s.boards,
    counts: s.counts,
    troubles: s.troubles,
    demo: s.demo,
    shop: s.shop,
    carriers: s.carriers,
  })
  for (const id of Object.keys(nodes)) void push(id)
}

function clientNode(n: NodeState, old: ClientNode | undefined): ClientNode {
  const based = rebase(n.design, old?.pending ?? [], [], get().catalog)
  tellDropped(based.dropped)
  return {
    id: n.id,
    server: n.design,
    seq: n.seq,
    design: based.design,
    pending: based.kept,
    undo: old?.undo ?? [],
    redo: old?.redo ?? [],
    live: n.live,
  }
}

export function takeEvent(event: LiveEvent): void {
  switch (event.kind) {
    case 'node':
      set((s) => ({
        nodes: { ...s.nodes, [event.node.id]: clientNode(event.node, s.nodes[event.node.id]) },
        order: [...s.order.filter((id) => id !== event.node.id), event.node.id],
      }))
      return
    case 'edit':
      return takeEdit(event.node, event.seq, event.editId, event.body)
    case 'value':
      return withNode(event.node, (n) => ({
        ...n,
        live: {
          ...n.live,
          heardAt: event.at,
          values: { ...n.live.values, [event.signal]: { value: event.value, at: event.at } },
        },
      }))
    case 'live':
      return withNode(event.node, (n) => ({ ...n, live: { ...event.live, values: n.live.values } }))
    case 'entities':
      return set({ entities: event.entities })
    case 'tape':
      return set((s) => ({ tapes: { ...s.tapes, [event.node]: event.tape } }))
    case 'board':
      return set((s) => ({ boards: { ...s.boards, [event.node]: event.board } }))
    case 'counts':
      return set({ counts: event.counts })
    case 'carriers':
      return set({ carriers: event.carriers })
    case 'shop':
      return set({ shop: event.shop })
    case 'shelf':
      return set({ catalog: withItems(builtInCatalog, event.items) })
    case 'trouble': {
      const { trouble } = event
      const others = (all: Trouble[]) => all.filter((t) => t.what !== trouble.what || t.topic !== trouble.topic)
      return set((s) => ({ troubles: [trouble, ...others(s.troubles)].slice(0, 100) }))
    }
  }
}

function withNode(id: string, change: (node: ClientNode) => ClientNode): void {
  const node = get().nodes[id]
  if (node) put(change(node))
}

/** An edit the server has saved: ours comes off the waiting list, another's goes underneath it. */
function takeEdit(id: string, seq: number, editId: string, body: EditBody): void {
  const node = get().nodes[id]
  if (!node || seq <= node.seq) return
  const applied = applyEdit(node.server, body, get().catalog)
  if (seq !== node.seq + 1 || !applied.ok) return void refresh()
  if (node.pending[0]?.id === editId) {
    put({ ...node, server: applied.design, seq, pending: node.pending.slice(1) })
    settleSaving()
    return
  }
  const based = rebase(applied.design, node.pending, chosenBy(body, applied.changes), get().catalog)
  put({ ...node, server: applied.design, seq, design: based.design, pending: based.kept })
  tellDropped(based.dropped)
}

function tellDropped(dropped: { edit: PendingEdit; reason: string }[]): void {
  const first = dropped[0]
  if (first)
    say(`“${first.edit.words}” was not saved: ${first.reason}.`, 'refused', 'doing it again if you still want it')
}

const snapshotAnswer = z.custom<Snapshot>((v) => typeof v === 'object' && v !== null && 'nodes' in v)

async function refresh(): Promise<void> {
  const answer = await ask('/api/snapshot', snapshotAnswer)
  if (answer.kind === 'ok') takeSnapshot(answer.value)
}

/** Makes an edit: shown at once, saved in order. Returns false when it is refused, which is said. */
export function edit(id: string, body: EditBody): boolean {
  const node = get().nodes[id]
  if (!node) return false
  const done = perform(node, body)
  if (done) put({ ...done.node, undo: [...node.undo.slice(-199), { words: done.words, backs: [done.back] }], redo: [] })
  if (done) void push(id)
  return done !== null
}

/** Several edits as one remedy: all or none. */
export function editAll(id: string, bodies: readonly EditBody[]): boolean {
  let node = get().nodes[id]
  if (!node) return false
  const all = performAll(node, bodies)
  if (!all) return false
  node = all.node
  put({ ...node, undo: [...node.undo.slice(-199), { words: all.words, backs: all.backs }], redo: [] })
  void push(id)
  return true
}

function performAll(
  start: ClientNode,
  bodies: readonly EditBody[],
): { node: ClientNode; words: string; backs: EditBody[] } | null {
  let node = start
  const backs: EditBody[] = []
  let first = ''
  for (const body of bodies) {
    const done = perform(node, body)
    if (!done) return null
    node = done.node
    first ||= done.words
    backs.unshift(done.back)
  }
  return { node, backs, words: bodies.length > 1 ? `${first} and ${bodies.length - 1} more` : first }
}

function perform(node: ClientNode, body: EditBody): { node: ClientNode; words: string; back: EditBody } | null {
  const checked = editBodySchema.safeParse(body)
  if (!checked.success) {
    say(checked.error.issues[0]?.message ?? 'This cannot be done.', 'refused')
    return null
  }
  const applied = applyEdit(node.design, body, get().catalog)
  if (!applied.ok) {
    say(`${capital(applied.reason)}.`, 'refused', applied.accepts)
    return null
  }
  const words = editWords(body, node.design)
  const pending: PendingEdit = { id: crypto.randomUUID(), body, words, at: new Date().toISOString() }
  return {
    node: { ...node, design: applied.design, pending: [...node.pending, pending] },
    words,
    back: backFrom(words, applied.changes),
  }
}

function backFrom(words: string, changes: Change[]): EditBody {
  return { kind: 'revert', of: words.replace(/^take back: /, '').slice(0, 200), changes: invertChanges(changes) }
}

export function undo(id: string): void {
  move(id, 'undo', 'redo')
}

export function redo(id: string): void {
  move(id, 'redo', 'undo')
}

function move(id: string, from: 'undo' | 'redo', to: 'undo' | 'redo'): void {
  const node = get().nodes[id]
  const step = node?.[from].at(-1)
  if (!node || !step)
    return say(from === 'undo' ? 'There is nothing of yours to take back.' : 'There is nothing to do again.')
  const done = performAll(node, step.backs)
  const rest = node[from].slice(0, -1)
  if (!done) return put({ ...node, [from]: rest })
  put({ ...done.node, [from]: rest, [to]: [...node[to], { words: step.words, backs: done.backs }] })
  say(`${from === 'undo' ? 'Taken back' : 'Done again'}: ${step.words}`)
  void push(id)
}

const pushing = new Set<string>()
const seqAnswer = z.object({ seq: z.number() })

/** Sends waiting edits one after the other. “Saved” is said when the server has the row in its database. */
async function push(id: string): Promise<void> {
  if (pushing.has(id)) return
  pushing.add(id)
  try {
    for (;;) {
      const node = get().nodes[id]
      const first = node?.pending[0]
      if (!node || !first) return
      set({ saving: { state: 'saving' } })
      const answer = await ask(`/api/nodes/${id}/edits`, seqAnswer, {
        id: first.id,
        node: id,
        base: node.seq,
        body: first.body,
        author: author(),
        at: first.at,
      })
      if (answer.kind === 'ok') takeEdit(id, answer.value.seq, first.id, first.body)
      else if (answer.kind === 'problem' && answer.status === 409) await catchUp(id, answer.body)
      else if (answer.kind === 'problem') drop(id, first, answer.error, answer.accepts)
      else {
        set({ saving: { state: 'waiting' } })
        await new Promise((r) => setTimeout(r, RETRY_MS))
      }
    }
  } finally {
    pushing.delete(id)
    settleSaving()
  }
}

const missedAnswer = z.object({
  missed: z.array(z.object({ seq: z.number(), id: z.string(), body: editBodySchema })).min(1),
})

/** Another was first: what was missed goes underneath our waiting edits, then they are tried again. */
async function catchUp(id: string, body: unknown): Promise<void> {
  const parsed = missedAnswer.safeParse(body)
  if (!parsed.success) return refresh()
  for (const m of parsed.data.missed) takeEdit(id, m.seq, m.id, m.body)
}

function settleSaving(): void {
  if (Object.values(get().nodes).every((n) => n.pending.length === 0))
    set({ saving: { state: 'saved', at: Date.now() } })
}

function drop(id: string, edit: PendingEdit, reason: string, accepts: string | null): void {
  withNode(id, (n) => {
    const based = rebase(
      n.server,
      n.pending.filter((p) => p.id !== edit.id),
      [],
      get().catalog,
    )
    return { ...n, design: based.design, pending: based.kept, undo: n.undo.slice(0, -1) }
  })
  say(`“${edit.words}” was refused: ${reason}`, 'refused', accepts)
}

export function author(): string {
  return typeof localStorage === 'undefined' ? '' : (localStorage.getItem('vivid-name') ?? '')
}

export function rememberAuthor(name: string): void {
  localStorage.setItem('vivid-name', name)
}

export function newId(): string {
  return Array.from(crypto.getRandomValues(new Uint8Array(10)), (b) => 'abcdefghijkmnpqrstuvwxyz23456789'[b % 32]).join(
    '',
  )
}

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1)
}

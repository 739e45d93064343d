import { z } from 'zod'
import { create } from 'zustand'
import { builtInCatalog, type Catalog, withItems } from '../../core/catalog/catalog'
import type { EditBody } from '../../core/edits/edit'
import { editBodySchema } from '../../core/edits/edit'
import type { Design } from '../../core/model/design'
import { type ShopEditBody, shopEditBodySchema } from '../../core/shop/edits'
import { emptyShop, type Shop } from '../../core/shop/shop'
import type {
  BrokerView,
  Counts,
  ListedEntity,
  LiveEvent,
  NetworkCarriers,
  NodeLive,
  NodeState,
  Snapshot,
  StandInBoard,
  Tape,
  Told,
  Trouble,
} from '../../wire/protocol'
import type { AirBurst } from '../../core/radio/candidates'
import type { SenderLive } from '../../wire/air'
import type { ProofGoing } from '../../wire/proof'
import { ask } from './api'
import { tellClosely } from './closely'
import { designEditing } from './designEditing'
import type { Dropped, Edited, PendingEdit } from './edited'
import { shopEditing } from './shopEditing'

export interface ClientNode {
  id: string
  /** With this tab's unsaved edits on top: what the screen shows. */
  design: Design
  edits: Edited<Design, EditBody>
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
  /** Demo only: what the two controllers with forms of their own were told. */
  told: Told | null
  tapes: Record<string, Tape>
  /** Demo only: the simulated boards. */
  boards: Record<string, StandInBoard>
  counts: Counts
  troubles: Trouble[]
  demo: boolean
  /** With this tab's unsaved edits on top. */
  shop: Shop
  shopEdits: Edited<Shop, ShopEditBody>
  broker: BrokerView
  /** Networks and which nodes get in with their present password. */
  carriers: NetworkCarriers[]
  /** Everything on the shelf. */
  catalog: Catalog
  /** The contract test that runs now, and how many have ended since the page came. */
  proof: { going: ProofGoing | null; ended: number }
  /** By sender id: when each was heard, by whom, and what it said. */
  senders: Record<string, SenderLive>
  /** What gateways pass on raw, the newest last; only what has come since the page asked. */
  air: AirBurst[]
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

/** A shop nobody has heard from yet: it has no name. */
const unheard: Shop = { ...emptyShop('00000000-0000-4000-8000-000000000000', ''), networks: {} }

export const useLive = create<State>(() => ({
  link: 'connecting',
  loaded: false,
  nodes: {},
  order: [],
  entities: [],
  told: null,
  tapes: {},
  boards: {},
  counts: noCounts,
  troubles: [],
  demo: false,
  carriers: [],
  catalog: builtInCatalog,
  shop: unheard,
  shopEdits: shopEditing.begun(unheard, 0).state,
  broker: { host: '', port: 0, kind: 'own', link: { up: true, why: null } },
  proof: { going: null, ended: 0 },
  senders: {},
  air: [],
  saving: { state: 'saved', at: null },
  said: null,
  thread: null,
}))

const get = useLive.getState
const set = useLive.setState
const designs = designEditing(() => get().catalog)
const RETRY_MS = 1500
const MOST_BURSTS = 4000
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
    told: s.told,
    tapes: s.tapes,
    boards: s.boards,
    counts: s.counts,
    troubles: s.troubles,
    demo: s.demo,
    broker: s.broker,
    carriers: s.carriers,
    senders: s.senders,
  })
  const shop = shopEditing.begun(s.shop.document, s.shop.seq, get().shopEdits)
  tellDropped(shop.dropped)
  putShop(shop.state)
  void push(SHOP)
  for (const id of Object.keys(nodes)) void push(id)
}

function clientNode(n: NodeState, old: ClientNode | undefined): ClientNode {
  const { state, dropped } = designs.begun(n.design, n.seq, old?.edits)
  tellDropped(dropped)
  return asClient(n.id, state, n.live)
}

const asClient = (id: string, edits: Edited<Design, EditBody>, live: NodeLive): ClientNode => ({
  id,
  design: edits.current,
  edits,
  live,
})

export function takeEvent(event: LiveEvent): void {
  switch (event.kind) {
    case 'node':
      set((s) => ({
        nodes: { ...s.nodes, [event.node.id]: clientNode(event.node, s.nodes[event.node.id]) },
        order: [...s.order.filter((id) => id !== event.node.id), event.node.id],
      }))
      return
    case 'node-gone':
      return set((s) => {
        const { [event.node]: _, ...nodes } = s.nodes
        return { nodes, order: s.order.filter((id) => id !== event.node) }
      })
    case 'edit':
      return takeEdit(event.node, event.seq, event.editId, event.body)
    case 'shop-edit':
      return takeShopEdit(event.seq, event.editId, event.body)
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
    case 'told':
      return set({ told: event.told })
    case 'close':
      return tellClosely(event.node, event.signal, event.heard)
    case 'proof':
      return set((s) => ({ proof: { going: event.going, ended: s.proof.ended + (event.going === null ? 1 : 0) } }))
    case 'sender':
      return set((s) => ({ senders: { ...s.senders, [event.sender]: event.live } }))
    case 'air':
      return set((s) => ({ air: [...s.air, event.burst].slice(-MOST_BURSTS) }))
    case 'tape':
      return set((s) => ({ tapes: { ...s.tapes, [event.node]: event.tape } }))
    case 'board':
      return set((s) => ({ boards: { ...s.boards, [event.node]: event.board } }))
    case 'counts':
      return set({ counts: event.counts })
    case 'carriers':
      return set({ carriers: event.carriers })
    case 'broker':
      return set({ broker: event.broker })
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

/** Key of the shop document among the documents that are saved. */
const SHOP = 'shop'

function putShop(shopEdits: Edited<Shop, ShopEditBody>): void {
  set({ shopEdits, shop: shopEdits.current })
}

const putEdits = (node: ClientNode, edits: Edited<Design, EditBody>): void => put(asClient(node.id, edits, node.live))

function takeEdit(id: string, seq: number, editId: string, body: EditBody): void {
  const node = get().nodes[id]
  if (!node) return
  const taken = designs.taken(node.edits, seq, editId, body)
  if (!taken) return void refresh()
  putEdits(node, taken.state)
  tellDropped(taken.dropped)
  settleSaving()
}

function takeShopEdit(seq: number, editId: string, body: ShopEditBody): void {
  const taken = shopEditing.taken(get().shopEdits, seq, editId, body)
  if (!taken) return void refresh()
  putShop(taken.state)
  tellDropped(taken.dropped)
  settleSaving()
}

function tellDropped(dropped: readonly Dropped<unknown>[]): void {
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
export const edit = (id: string, body: EditBody): boolean => editAll(id, [body])

/** Several edits as one remedy: all or none. */
export function editAll(id: string, bodies: readonly EditBody[]): boolean {
  const node = get().nodes[id]
  if (!node) return false
  const made = designs.made(node.edits, bodies)
  if (made.ok) putEdits(node, made.state)
  else sayRefused(made)
  if (made.ok) void push(id)
  return made.ok
}

/** The same for the shop document. */
export function editShop(...bodies: ShopEditBody[]): boolean {
  const made = shopEditing.made(get().shopEdits, bodies)
  if (made.ok) putShop(made.state)
  else sayRefused(made)
  if (made.ok) void push(SHOP)
  return made.ok
}

const sayRefused = ({ reason, accepts }: { reason: string; accepts: string | null }): void =>
  say(`${capital(reason)}.`, 'refused', accepts)

/** `id`: a node, or null for the shop document. */
export const undo = (id: string | null): void => move(id, 'undo')
export const redo = (id: string | null): void => move(id, 'redo')

function move(id: string | null, from: 'undo' | 'redo'): void {
  const node = id === null ? undefined : get().nodes[id]
  if (id !== null && !node) return
  const moved = node ? moveNode(node, from) : moveShop(from)
  if (moved.refused) sayRefused(moved.refused)
  else if (moved.words === null)
    return say(from === 'undo' ? 'There is nothing of yours to take back.' : 'There is nothing to do again.')
  else say(`${from === 'undo' ? 'Taken back' : 'Done again'}: ${moved.words}`)
  void push(id ?? SHOP)
}

function moveNode(node: ClientNode, from: 'undo' | 'redo') {
  const { state, ...said } = designs.moved(node.edits, from)
  putEdits(node, state)
  return said
}

function moveShop(from: 'undo' | 'redo') {
  const { state, ...said } = shopEditing.moved(get().shopEdits, from)
  putShop(state)
  return said
}

const pushing = new Set<string>()
const seqAnswer = z.object({ seq: z.number() })

const waitingOf = (key: string): { seq: number; first: PendingEdit<unknown> | undefined } | null => {
  const edits = key === SHOP ? get().shopEdits : get().nodes[key]?.edits
  return edits ? { seq: edits.seq, first: edits.pending[0] } : null
}

/** Sends waiting edits one after the other. “Saved” is said when the server has the row in its database. */
async function push(key: string): Promise<void> {
  if (pushing.has(key)) return
  pushing.add(key)
  try {
    for (;;) {
      const waiting = waitingOf(key)
      if (!waiting?.first) return
      const { seq, first } = waiting
      set({ saving: { state: 'saving' } })
      const answer = await ask(key === SHOP ? '/api/shop/edits' : `/api/nodes/${key}/edits`, seqAnswer, {
        id: first.id,
        document: key,
        base: seq,
        body: first.body,
        author: author(),
        at: first.at,
      })
      if (answer.kind === 'ok') saved(key, answer.value.seq, first.id)
      else if (answer.kind === 'problem' && answer.status === 409) await catchUp(key, answer.body)
      else if (answer.kind === 'problem') drop(key, first, answer.error, answer.accepts)
      else {
        set({ saving: { state: 'waiting' } })
        await new Promise((r) => setTimeout(r, RETRY_MS))
      }
    }
  } finally {
    pushing.delete(key)
    settleSaving()
  }
}

/** The server has our first waiting edit. */
function saved(key: string, seq: number, editId: string): void {
  if (key === SHOP) {
    const first = get().shopEdits.pending.find((p) => p.id === editId)
    if (first) takeShopEdit(seq, editId, first.body)
  } else {
    const first = get().nodes[key]?.edits.pending.find((p) => p.id === editId)
    if (first) takeEdit(key, seq, editId, first.body)
  }
}

const missedAnswer = <B>(body: z.ZodType<B>) =>
  z.object({ missed: z.array(z.object({ seq: z.number(), id: z.string(), body })).min(1) })

/** Another was first: what was missed goes underneath our waiting edits, then they are tried again. */
async function catchUp(key: string, body: unknown): Promise<void> {
  if (key === SHOP) {
    const parsed = missedAnswer(shopEditBodySchema).safeParse(body)
    if (!parsed.success) return refresh()
    for (const m of parsed.data.missed) takeShopEdit(m.seq, m.id, m.body)
  } else {
    const parsed = missedAnswer(editBodySchema).safeParse(body)
    if (!parsed.success) return refresh()
    for (const m of parsed.data.missed) takeEdit(key, m.seq, m.id, m.body)
  }
}

function settleSaving(): void {
  const { nodes, shopEdits } = get()
  if ([shopEdits, ...Object.values(nodes).map((n) => n.edits)].every((e) => e.pending.length === 0))
    set({ saving: { state: 'saved', at: Date.now() } })
}

function drop(key: string, edit: PendingEdit<unknown>, reason: string, accepts: string | null): void {
  const node = get().nodes[key]
  if (node) putEdits(node, designs.refused(node.edits, edit.id))
  else putShop(shopEditing.refused(get().shopEdits, edit.id))
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

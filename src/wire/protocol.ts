import type { CatalogItems } from '../core/catalog/catalog'
import type { Design } from '../core/model/design'
import type { EditBody } from '../core/edits/edit'
import type { ShopEditBody } from '../core/shop/edits'
import type { AirBurst } from '../core/radio/candidates'
import type { SenderLive } from './air'
import type { ProofGoing } from './proof'
import type { Shop } from '../core/shop/shop'
import type { CloselyHeard, NodeHealth, NodeStatus, Scalar } from '../core/publish/payload'

/** What is known of a node beside its design. Times are ISO 8601. */
export interface NodeLive {
  status: NodeStatus | null
  heardAt: string | null
  health: NodeHealth | null
  /** `pieces`: it takes files in pieces of so many bytes. */
  running: { revision: number; hash: string; pieces?: number } | null
  /** By signal id. */
  values: Record<string, { value: Scalar; at: string }>
  /** What the node last said went wrong, by signal id, or '' for the node itself; until that signal is known again. */
  faults: Record<string, { what: string; at: string }>
  acknowledged: string[]
  /** A file on its way to it, and how far that has come. */
  sending: {
    revision: number
    step: 'waits for it to wake' | 'sent' | 'tried by the node' | 'connected again'
    pieces?: { sent: number; of: number }
  } | null
  /**
   * Signals it is asked to let be listened to closely: how often each is measured, ms, or null as it comes; until when,
   * or null while it sleeps. `why`: it came to nothing.
   */
  listening?: { signals: string[]; rates: Record<string, number | null>; until: string | null; why?: string } | null
}

export interface NodeState {
  id: string
  design: Design
  seq: number
  live: NodeLive
}

/** An entity as a controller lists it, by its own account. */
export interface ListedEntity {
  id: string
  thing: string
  name: string
  area: string
  kind: string
  unit: string | null
  value: unknown
  at: string | null
  available: boolean
  command: string | null
}

export interface Tape {
  levelM: number
  airC: number
  pump: boolean
}

/** What the demo's two controllers that read no descriptions have been told: entities, and nodes with their channels. */
export interface Told {
  panel: string[]
  hub: string[]
}

/** A simulated board as it says itself to be. */
export interface StandInBoard {
  active: string[]
  speed: number
  asleep: boolean
  longestStepMs: number
}

/** How far storing has come: readings that wait, rows set aside, and since when and why nothing could be stored. */
export interface Storing {
  waiting: number
  setAside: number
  failing: { since: string; why: string } | null
  storedAt: string | null
}

/** Rows that are old by this machine's clock, but so many more than usual that the clock may be what is wrong. */
export interface Held {
  rows: number
  usualADay: number
  before: string
}

export interface Counts {
  received: number
  refused: number
  odd: number
  perMinute: number
  clients: number
  storing: Storing
  /** Old readings that wait for somebody's word before they go. */
  held: Held | null
}

/** `at`: last time it came; `times`: how often since the start. */
export interface Trouble {
  at: string
  topic: string
  what: string
  times: number
}

export type LiveEvent =
  | { kind: 'node'; node: NodeState }
  | { kind: 'node-gone'; node: string }
  | { kind: 'edit'; node: string; seq: number; editId: string; body: EditBody; author: string }
  | { kind: 'value'; node: string; signal: string; value: Scalar; at: string }
  | { kind: 'live'; node: string; live: Omit<NodeLive, 'values'> }
  | { kind: 'entities'; entities: ListedEntity[] }
  | { kind: 'told'; told: Told }
  | { kind: 'close'; node: string; signal: string; heard: CloselyHeard }
  | { kind: 'tape'; node: string; tape: Tape }
  | { kind: 'board'; node: string; board: StandInBoard }
  | { kind: 'counts'; counts: Counts }
  | { kind: 'trouble'; trouble: Trouble }
  | { kind: 'shop-edit'; seq: number; editId: string; body: ShopEditBody; author: string }
  | { kind: 'broker'; broker: BrokerView }
  | { kind: 'carriers'; carriers: NetworkCarriers[] }
  | { kind: 'shelf'; items: CatalogItems }
  | { kind: 'proof'; going: ProofGoing | null }
  | { kind: 'air'; burst: AirBurst }
  | { kind: 'sender'; sender: string; live: SenderLive }

export interface Snapshot {
  nodes: NodeState[]
  entities: ListedEntity[]
  told: Told | null
  tapes: Record<string, Tape>
  boards: Record<string, StandInBoard>
  counts: Counts
  troubles: Trouble[]
  demo: boolean
  shop: { document: Shop; seq: number }
  broker: BrokerView
  carriers: NetworkCarriers[]
  /** What the user has put on the shelf. */
  items: CatalogItems
  /** By sender id. */
  senders: Record<string, SenderLive>
}

export type CredentialState = 'carried' | 'trying' | 'pending' | 'asleep' | 'unreachable' | 'unknown'

/** A network, and which of its nodes have shown that they get in with its present password. No password is in it. */
export interface NetworkCarriers {
  ref: string
  name: string
  hidden: boolean
  band: '2.4' | '5' | 'both'
  version: number
  /** True when a password is kept for it. */
  known: boolean
  nodes: {
    id: string
    name: string
    slug: string
    state: CredentialState
    reason: string | null
    /** Its own key cannot be opened here: only a bundle by cable can give it another password. */
    keyless: boolean
    at: string | null
    /** It has the present password, proven or as a second way in. */ has: boolean
  }[]
}

/** Where the broker is and how the line to it stands; no login is in it. */
export interface BrokerView {
  host: string
  port: number
  kind: 'own' | 'outside'
  link: { up: boolean; why: string | null }
}

/** One message as the ledger shows it. */
export interface LedgerRow {
  id: number
  at: string
  topic: string
  payload: string
  size: number
  retained: boolean
  qos: number
  from: string
  mark: 'understood' | 'passed' | 'odd' | 'refused'
  /** What the product made of it, in words. */
  understood: string
}

import type { Message } from '../broker/broker'
import type { LedgerRow } from './protocol'

const REMEMBERED = 5000
/** Longest payload kept for looking at, characters. */
const SHOWN = 2000
const TELL_MS = 200

/** What was understood, said when somebody looks. */
export type Words = string | (() => string)

/** A message as it is remembered; put into words only for those who look. */
interface Kept { id: number; at: number; message: Message; mark: LedgerRow['mark']; understood: Words }

function shown({ id, at, message: m, mark, understood }: Kept): LedgerRow {
  // Sealed credentials are nobody's to look at: that they passed is all that is told.
  const text = m.topic.endsWith('/vault/set') ? 'sealed' : m.payload.toString('utf8', 0, SHOWN * 4).slice(0, SHOWN)
  return { id, at: new Date(at).toISOString(), topic: m.topic, payload: text, size: m.payload.length, retained: m.retain, qos: m.qos, from: m.from ?? 'Vivid Node', mark, understood: typeof understood === 'string' ? understood : understood() }
}

type Listener = (rows: LedgerRow[]) => void

/** The latest messages as they came by, what was understood of each, and who follows them. */
export class Ledger {
  private rows: Kept[] = []
  private last = 0
  private untold: Kept[] = []
  private listeners = new Set<Listener>()
  private timer = setInterval(() => this.tell(), TELL_MS)

  add(message: Message, mark: LedgerRow['mark'], understood: Words): void {
    this.push({ id: ++this.last, at: Date.now(), message, mark, understood })
  }

  refused(topic: string, what: string): void {
    this.push({ id: ++this.last, at: Date.now(), message: { topic, payload: Buffer.alloc(0), retain: false, qos: 0, from: what.split(':')[0] ?? '' }, mark: 'refused', understood: what })
  }

  /** Rows after this id, oldest first; all that are remembered when some in between are gone. */
  since(id: number): LedgerRow[] {
    return this.rows.filter((r) => r.id > id).map(shown)
  }

  follow(listener: Listener): () => void {
    this.listeners.add(listener)
    return () => this.listeners.delete(listener)
  }

  stop(): void {
    clearInterval(this.timer)
  }

  private push(row: Kept): void {
    this.rows.push(row)
    if (this.rows.length > REMEMBERED * 1.2) this.rows = this.rows.slice(-REMEMBERED)
    if (this.listeners.size > 0) this.untold.push(row)
  }

  private tell(): void {
    if (this.untold.length === 0) return
    const rows = this.untold.map(shown)
    this.untold = []
    for (const listener of this.listeners) listener(rows)
  }
}

import type { Message } from '../broker/broker'
import type { LedgerRow } from './protocol'

const REMEMBERED = 5000
/** Longest payload kept for looking at, characters. */
const SHOWN = 2000
const TELL_MS = 200

type Listener = (rows: LedgerRow[]) => void

/** The latest messages as they came by, what was understood of each, and who follows them. */
export class Ledger {
  private rows: LedgerRow[] = []
  private last = 0
  private untold: LedgerRow[] = []
  private listeners = new Set<Listener>()
  private timer = setInterval(() => this.tell(), TELL_MS)

  add(message: Message, mark: LedgerRow['mark'], understood: string): void {
    // Sealed credentials are nobody's to look at: that they passed is all that is kept.
    const sealed = /\/vault\/set$/.test(message.topic)
    const text = sealed ? 'sealed' : message.payload.toString('utf8')
    this.push({
      id: ++this.last, at: new Date().toISOString(), topic: message.topic, payload: text.slice(0, SHOWN), size: message.payload.length,
      retained: message.retain, qos: message.qos, from: message.from ?? 'Vivid Node', mark, understood,
    })
  }

  refused(topic: string, what: string): void {
    this.push({ id: ++this.last, at: new Date().toISOString(), topic, payload: '', size: 0, retained: false, qos: 0, from: what.split(':')[0] ?? '', mark: 'refused', understood: what })
  }

  /** Rows after this id, oldest first; all that are remembered when some in between are gone. */
  since(id: number): LedgerRow[] {
    return this.rows.filter((r) => r.id > id)
  }

  follow(listener: Listener): () => void {
    this.listeners.add(listener)
    return () => this.listeners.delete(listener)
  }

  stop(): void {
    clearInterval(this.timer)
  }

  private push(row: LedgerRow): void {
    this.rows.push(row)
    if (this.rows.length > REMEMBERED * 1.2) this.rows = this.rows.slice(-REMEMBERED)
    if (this.listeners.size > 0) this.untold.push(row)
  }

  private tell(): void {
    if (this.untold.length === 0) return
    const rows = this.untold
    this.untold = []
    for (const listener of this.listeners) listener(rows)
  }
}

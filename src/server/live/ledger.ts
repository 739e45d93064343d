import type { Message } from './message'
import type { LedgerRow } from '../../wire/protocol'

const REMEMBERED = 5000
/** Longest payload kept for looking at, characters. */
const SHOWN = 2000
const TELL_MS = 200

/** What was understood, put into words when somebody looks. */
export type Words = string | { toString: () => string }

/** A message as it is remembered, without what it came in; put into words only for those who look. */
interface Kept {
  id: number
  at: number
  topic: string
  text: string
  size: number
  retained: boolean
  qos: number
  from: string | null
  mark: LedgerRow['mark']
  understood: Words
}

function shown({ id, at, topic, text, size, retained, qos, from, mark, understood }: Kept): LedgerRow {
  // Sealed credentials are nobody's to look at: that they passed is all that is told.
  const payload = topic.endsWith('/vault/set') ? 'sealed' : text
  return {
    id,
    at: new Date(at).toISOString(),
    topic,
    payload,
    size,
    retained,
    qos,
    from: from ?? 'Vivid Node',
    mark,
    understood: String(understood),
  }
}

type Listener = (rows: LedgerRow[]) => void

/** The latest messages as they came by, what was understood of each, and who follows them. */
export class Ledger {
  private rows: Kept[] = []
  private last = 0
  private untold: Kept[] = []
  private listeners = new Set<Listener>()
  private timer = setInterval(() => this.tell(), TELL_MS)

  /** `text` is the payload where somebody has read it already. */
  add(
    { topic, payload, retain, qos, from }: Message,
    at: number,
    text: string | null,
    mark: LedgerRow['mark'],
    understood: Words,
  ): void {
    const shown = text ?? payload.toString('utf8', 0, SHOWN * 4)
    this.push({
      id: ++this.last,
      at,
      topic: topic.slice(0, SHOWN),
      text: shown.length > SHOWN ? shown.slice(0, SHOWN) : shown,
      size: payload.length,
      retained: retain,
      qos,
      from,
      mark,
      understood,
    })
  }

  refused(topic: string, what: string): void {
    this.push({
      id: ++this.last,
      at: Date.now(),
      topic: topic.slice(0, SHOWN),
      text: '',
      size: 0,
      retained: false,
      qos: 0,
      from: what.split(':')[0]?.slice(0, 60) ?? '',
      mark: 'refused',
      understood: what.slice(0, SHOWN),
    })
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

import type { LiveEvent } from '../../wire/protocol'

const REMEMBERED = 2000

/**
 * Events in order with ids; a browser that was away for fewer than the remembered ones gets them, any other starts
 * anew.
 */
export class LiveStream {
  private events: { id: number; event: LiveEvent }[] = []
  private last = 0
  private listeners = new Set<(id: number, event: LiveEvent) => void>()
  private readonly ending = new AbortController()
  /** Differs for every start of the server, so that an id of an earlier one is never taken for one of ours. */
  readonly epoch = Date.now().toString(36)

  emit(event: LiveEvent): void {
    const id = ++this.last
    this.events.push({ id, event })
    if (this.events.length > REMEMBERED * 1.5) this.events = this.events.slice(-REMEMBERED)
    for (const listener of this.listeners) listener(id, event)
  }

  /** Aborted when this stream will tell nothing more. */
  get ended(): AbortSignal {
    return this.ending.signal
  }

  end(): void {
    this.ending.abort()
    this.listeners.clear()
  }

  get lastId(): string {
    return `${this.epoch}-${this.last}`
  }

  /** Events after `lastEventId`, or null when some of them are gone and the state must be loaded again. */
  since(lastEventId: string | null): { id: number; event: LiveEvent }[] | null {
    const [epoch, number] = (lastEventId ?? '').split('-')
    const from = Number(number)
    if (epoch !== this.epoch || !Number.isInteger(from)) return null
    const oldest = this.events[0]?.id ?? this.last + 1
    return from + 1 < oldest ? null : this.events.filter((e) => e.id > from)
  }

  listen(listener: (id: number, event: LiveEvent) => void): () => void {
    this.listeners.add(listener)
    return () => this.listeners.delete(listener)
  }
}

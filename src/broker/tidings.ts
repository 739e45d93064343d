import type { Said } from '../wire/brokerControl'
import type { Broker } from './broker'
import type { KeptMessages } from './keptMessages'

const TELL_MS = 100
const COUNTS_MS = 250
/** Refusals told at once; a flood beyond them is counted. */
const MOST_REFUSED = 200
/** Retained messages in one piece, bytes. */
const PIECE = 256 * 1024

/** What the broker tells the product by itself: gathered, so that a flood of attempts is no flood of tidings. */
export class Tidings {
  private refusals: { topic: string; what: string }[] = []
  private more = 0
  private counts = ''
  private readonly timers: NodeJS.Timeout[]

  constructor(private readonly broker: () => Broker | null) {
    this.timers = [setInterval(() => this.tell(), TELL_MS), setInterval(() => this.tellCounts(), COUNTS_MS)]
  }

  refused(topic: string, what: string): void {
    if (this.refusals.length < MOST_REFUSED)
      this.refusals.push({ topic: topic.slice(0, 300), what: what.slice(0, 300) })
    else this.more += 1
  }

  /** How everything stands, for a product that has just come. */
  all({ broker, version, store }: { broker: string; version: number; store: KeptMessages }): void {
    const b = this.broker()
    if (!b) return
    const { fresh, lost } = store
    const { nodes, clients, connections, listeners } = b
    let piece: Extract<Said, { kind: 'retained' }>['messages'] = []
    let size = 0
    for (const { topic, payload, qos } of store.retained.values()) {
      piece.push({ topic, payload: payload.toString('base64'), qos })
      size += payload.length
      if (size < PIECE) continue
      b.say({ kind: 'retained', messages: piece })
      piece = []
      size = 0
    }
    b.say({ kind: 'retained', messages: piece })
    b.say({
      kind: 'state',
      version,
      broker,
      fresh: fresh && store.retained.size === 0,
      nodes,
      lost,
      clients,
      connections,
      listeners,
    })
    store.clearLost()
  }

  stop(): void {
    this.timers.forEach(clearInterval)
  }

  private tell(): void {
    if (this.refusals.length === 0) return
    this.broker()?.say({ kind: 'refused', refused: this.refusals, more: this.more })
    this.refusals = []
    this.more = 0
  }

  private tellCounts(): void {
    const b = this.broker()
    if (!b) return
    const { clients, connections, listeners } = b
    const counts = JSON.stringify([clients, connections, listeners])
    if (counts === this.counts) return
    this.counts = counts
    b.say({ kind: 'counts', clients, connections, listeners })
  }
}

/** What one client, one login and one place of the topic tree may take of the broker. */
export const BOUNDS = {
  /** Subscriptions of one client. */
  subscriptions: 100,
  /** Connections of one login at once. */
  connections: 20,
  /** Retained messages below one node's name, and their bytes with their topics. */
  retained: 500,
  retainedBytes: 1024 * 1024,
  /** Messages kept for one session while it is away or does not acknowledge, and their bytes. */
  waiting: 2000,
  waitingBytes: 8 * 1024 * 1024,
} as const

/** How many retained messages stand below each node's name, or a first level that is not ours, and how large they are. */
export class RetainedShares {
  /** `root`: the shop's own first level. */
  constructor(private readonly root: string) {}

  private sizes = new Map<string, number>()
  private shares = new Map<string, { topics: number; bytes: number }>()

  /**
   * A sentence when this message may not be kept beside those of its place; null when it may, and is counted. An empty
   * one clears.
   */
  take(topic: string, bytes: number): string | null {
    const [first, second] = topic.split('/', 2)
    const place = first === this.root ? `${first}/${second}` : (first ?? '')
    const share = this.shares.get(place) ?? { topics: 0, bytes: 0 }
    const before = this.sizes.get(topic)
    const size = topic.length + bytes
    if (bytes === 0) {
      if (before === undefined) return null
      this.sizes.delete(topic)
      this.shares.set(place, { topics: share.topics - 1, bytes: share.bytes - before })
      return null
    }
    const next = { topics: share.topics + (before === undefined ? 1 : 0), bytes: share.bytes + size - (before ?? 0) }
    if (next.topics > BOUNDS.retained)
      return `more than ${BOUNDS.retained} retained messages below ${place}: this one was dropped`
    if (next.bytes > BOUNDS.retainedBytes)
      return `more than ${BOUNDS.retainedBytes} bytes retained below ${place}: this one was dropped`
    this.sizes.set(topic, size)
    this.shares.set(place, next)
    return null
  }
}

interface Packet {
  payload: Buffer | string
  messageId?: number
  brokerId?: string
  brokerCounter?: number
}
interface Subscriber {
  clientId: string
}

/** What the broker keeps its sessions in, as far as it is bounded here. */
export interface Sessions {
  outgoingEnqueueCombi(subscribers: Subscriber[], packet: Packet): Promise<void>
  outgoingEnqueue(subscriber: Subscriber, packet: Packet): Promise<void>
  outgoingClearMessageId(client: { id: string }, packet: Packet): Promise<Packet | undefined>
  outgoingUpdate(client: { id: string }, packet: Packet): Promise<void>
  cleanSubscriptions(client: { id: string }): Promise<void>
}

/** More than any client numbers its messages with. */
const BEYOND_IDS = 2 ** 20

/** Bounds what waits for each session, and has a message that several of its subscriptions ask for wait once. */
export function boundSessions(
  kept: Sessions,
  onDropped: (client: string) => void,
): { refused: (client: string, packet: Packet) => void } {
  const queues = new Map<string, { messages: number; bytes: number; told: boolean }>()
  const enqueue = kept.outgoingEnqueueCombi.bind(kept)
  const clear = kept.outgoingClearMessageId.bind(kept)
  const forget = kept.cleanSubscriptions.bind(kept)
  const room = (client: string, bytes: number): boolean => {
    const q = queues.get(client) ?? { messages: 0, bytes: 0, told: false }
    queues.set(client, q)
    if (q.messages >= BOUNDS.waiting || q.bytes + bytes > BOUNDS.waitingBytes) {
      if (!q.told) onDropped(client)
      q.told = true
      return false
    }
    q.messages += 1
    q.bytes += bytes
    return true
  }
  kept.outgoingEnqueueCombi = (subscribers, packet) => {
    const once = [...new Map(subscribers.map((s) => [s.clientId, s])).values()]
    return enqueue(
      once.filter((s) => room(s.clientId, packet.payload.length)),
      packet,
    )
  }
  kept.outgoingEnqueue = (subscriber, packet) => kept.outgoingEnqueueCombi([subscriber], packet)
  const refused = new Map<string, Set<number>>()
  kept.outgoingClearMessageId = async (client, given) => {
    let packet = given
    if (given.messageId === undefined) {
      // Called for what is not sent: a second filter of the same session, whose message waits for the first, or what it
      // may not get.
      const counter = given.brokerCounter ?? 0
      if (!refused.get(client.id)?.delete(counter)) return undefined
      packet = { ...given, messageId: BEYOND_IDS + counter }
      await kept.outgoingUpdate(client, packet).catch(() => undefined)
    }
    const gone = await clear(client, packet)
    const q = queues.get(client.id)
    if (gone && q) {
      q.messages -= 1
      q.bytes -= gone.payload.length
      if (q.messages <= 0) queues.delete(client.id)
    }
    return gone
  }
  kept.cleanSubscriptions = (client) => {
    queues.delete(client.id)
    refused.delete(client.id)
    return forget(client)
  }
  return {
    refused: (client, packet) => {
      if (queues.has(client)) refused.set(client, (refused.get(client) ?? new Set()).add(packet.brokerCounter ?? 0))
    },
  }
}

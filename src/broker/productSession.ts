import type { AedesPublishPacket, Client as AedesClient } from 'aedes'
import { Readable } from 'node:stream'
import { type Origin, PRODUCT, withOrigin } from '../wire/brokerControl'
import type { Sessions } from './bounds'
import type { KeptMessages } from './keptMessages'

/** Id of the product's session: an id belongs to its login. */
export const PRODUCT_ID = `${PRODUCT.login}/${PRODUCT.client}`

type Packet = Parameters<Sessions['outgoingEnqueue']>[1]
interface Queued extends Packet {
  n: number
  topic: string
  brokerId?: string
}

/** The library's sessions with what this one needs of them besides. */
interface Persistence extends Sessions {
  outgoingStream(client: { id: string }): Readable
  addSubscriptions(client: { id: string }, subs: { topic: string; qos: number }[]): Promise<void>
}

/**
 * What waits for the product, whether it is connected or not: in order, found by number in one step however many they
 * are, and on the disk. The library's own session looks through all of them for each, and forgets them with the process.
 */
export class ProductSession {
  private readonly origins = new WeakMap<object, Origin>()
  /** By the broker's count, in order. */
  private readonly queue = new Map<number, Queued>()
  private readonly byMessageId = new Map<number, Queued>()
  /** It has come, and what has waited for it is on its way: what comes now goes behind that. */
  private emptying = false

  constructor(
    persistence: unknown,
    private readonly store: KeptMessages,
  ) {
    const sessions = persistence as Persistence
    const theirs = {
      enqueue: sessions.outgoingEnqueueCombi.bind(sessions),
      update: sessions.outgoingUpdate.bind(sessions),
      clear: sessions.outgoingClearMessageId.bind(sessions),
      stream: sessions.outgoingStream.bind(sessions),
    }
    sessions.outgoingEnqueueCombi = (subscribers, packet) => {
      if (subscribers.some((s) => s.clientId === PRODUCT_ID)) this.enqueue(packet)
      return theirs.enqueue(
        subscribers.filter((s) => s.clientId !== PRODUCT_ID),
        packet,
      )
    }
    sessions.outgoingUpdate = (client, packet) =>
      client.id === PRODUCT_ID ? this.numbered(packet) : theirs.update(client, packet)
    sessions.outgoingClearMessageId = (client, packet) =>
      client.id === PRODUCT_ID ? this.taken(packet) : theirs.clear(client, packet)
    sessions.outgoingStream = (client) => (client.id === PRODUCT_ID ? this.waiting() : theirs.stream(client))
  }

  /** What the product hears, from the start and for good: whether it has ever been here or not. */
  async subscribe(persistence: unknown, filters: { topic: string; qos: 0 | 1 }[]): Promise<void> {
    await (persistence as Persistence).addSubscriptions({ id: PRODUCT_ID }, filters)
  }

  /** Remembers where a message came from that is about to be published. */
  comes(payload: object, origin: Origin): void {
    this.origins.set(payload, origin)
  }

  /** What the product gets of a message; null when it gets it otherwise, or not. */
  forward(packet: AedesPublishPacket): AedesPublishPacket | null {
    if (packet.topic.startsWith('$')) return packet
    const origin = typeof packet.payload === 'object' ? this.origins.get(packet.payload) : undefined
    if (!origin || (packet.qos > 0 && (this.emptying || origin.n === 0))) return null
    return { ...packet, topic: withOrigin(packet.topic, origin), qos: packet.qos > 0 ? 1 : 0, retain: false }
  }

  /** The product comes. */
  came(): void {
    this.emptying = true
  }

  /** All that waited has been handed over; what came meanwhile follows. */
  emptied(client: AedesClient): void {
    this.emptying = false
    const deliver = (client as unknown as { deliverQoS(packet: Queued, done: () => void): void }).deliverQoS
    for (const packet of this.queue.values())
      if (packet.messageId === undefined) deliver({ ...packet, brokerId: undefined }, () => undefined)
  }

  private enqueue(packet: Packet): void {
    const origin = typeof packet.payload === 'object' ? this.origins.get(packet.payload) : undefined
    if (!origin || origin.n === 0) return
    const { topic } = packet as Packet & { topic: string }
    const queued = { ...packet, qos: 1, retain: false, messageId: undefined, topic: withOrigin(topic, origin) }
    this.queue.set(packet.brokerCounter ?? 0, { ...queued, n: origin.n })
  }

  private numbered(packet: Packet): Promise<void> {
    const queued = this.queue.get(packet.brokerCounter ?? 0)
    if (!queued || packet.messageId === undefined) return Promise.reject(new Error('no such packet'))
    queued.messageId = packet.messageId
    this.byMessageId.set(packet.messageId, queued)
    return Promise.resolve()
  }

  private taken({ messageId }: Packet): Promise<Packet | undefined> {
    const queued = messageId === undefined ? undefined : this.byMessageId.get(messageId)
    if (!queued || messageId === undefined) return Promise.resolve(undefined)
    this.byMessageId.delete(messageId)
    this.queue.delete(queued.brokerCounter ?? 0)
    this.store.taken(queued.n)
    return Promise.resolve(queued)
  }

  /** Numbers of an earlier connection mean nothing in this one. */
  private waiting(): Readable {
    this.byMessageId.clear()
    for (const packet of this.queue.values()) packet.messageId = undefined
    return Readable.from([...this.queue.values()].map((p) => ({ ...p })))
  }
}

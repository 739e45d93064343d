import type { Message } from '../live/message'
import type { Broker } from './broker'

export interface OutsideOptions {
  url: string
  login: string
  password: string | null
  root: string
  onMessage: (message: Message) => Promise<void>
  /** The line to the broker begins or ends; `why` is what it said, if anything. */
  onLink: (up: boolean, why: string | null) => void
}

const RETRY_MS = 2000
/** How long an own message may take to come back and still be known as ours. */
const ECHO_MS = 10_000

/**
 * A broker somebody else runs, in place of the embedded one. What we publish comes back to us and is known as our own.
 */
export async function connectOutside(o: OutsideOptions): Promise<Broker> {
  // Loading the client takes a fifth of a second; a shop with its own broker does without.
  const { default: mqtt } = await import('mqtt')
  const own = new Map<string, number[]>()
  const client = mqtt.connect(o.url, {
    username: o.login || undefined,
    password: o.password ?? undefined,
    clientId: `vivid-node-${Math.random().toString(36).slice(2, 10)}`,
    reconnectPeriod: RETRY_MS,
    queueQoSZero: false,
  })
  const keyOf = (topic: string, payload: string | Buffer) => `${topic}\n${payload.toString()}`
  const isOwn = (topic: string, payload: string) => {
    const times = own.get(keyOf(topic, payload))?.filter((t) => t > Date.now() - ECHO_MS) ?? []
    if (times.length === 0) return false
    times.shift()
    if (times.length > 0) own.set(keyOf(topic, payload), times)
    else own.delete(keyOf(topic, payload))
    return true
  }
  // The acknowledgement goes out when this calls back: after what the message leaves behind is durable.
  client.handleMessage = (packet, done) => {
    const payload = Buffer.isBuffer(packet.payload) ? packet.payload : Buffer.from(packet.payload)
    const from = isOwn(packet.topic, payload.toString()) ? null : 'outside broker'
    o.onMessage({ topic: packet.topic, payload, retain: packet.retain, qos: packet.qos, from }).then(
      () => done(),
      (e: unknown) => done(e instanceof Error ? e : new Error(String(e))),
    )
  }
  let why: string | null = null
  client.on('error', (e) => {
    why = e.message
  })
  client.on('connect', () => {
    why = null
    client.subscribe(`${o.root}/#`, { qos: 1 }, (e) =>
      o.onLink(!e, e ? `may not subscribe to ${o.root}/#: ${e.message}` : null),
    )
  })
  client.on('close', () => o.onLink(false, why))
  return {
    publish: async (topic, payload, options) => {
      if (!client.connected) throw new Error('the outside broker is not connected')
      own.set(keyOf(topic, payload), [...(own.get(keyOf(topic, payload)) ?? []), Date.now()])
      if (own.size > 500)
        for (const [key, times] of own) if (times.every((t) => t < Date.now() - ECHO_MS)) own.delete(key)
      await client.publishAsync(topic, payload, options)
    },
    get clients() {
      return client.connected ? 1 : 0
    },
    // Who else is connected there is not ours to know or to end.
    connectionsOf: () => 0,
    listenerOf: () => null,
    cutOff: () => Promise.resolve(),
    close: () => client.endAsync(true),
  }
}

import { randomUUID } from 'node:crypto'
import type { MqttClient } from 'mqtt'
import {
  ASK,
  type Ask,
  type BrokerAccess,
  type BrokerLogin,
  type Listener,
  originOf,
  PRODUCT,
  SAID,
  type Said,
  saidSchema,
} from '../../wire/brokerControl'
import type { Message } from '../live/message'
import { acknowledgeWhenKept } from './acknowledged'
import type { Broker } from './broker'
import { brokerSecret, BrokerStopped, type BrokerWanted, endBroker, ensureBroker } from './brokerProcess'

export interface OwnOptions {
  wanted: BrokerWanted
  /** What the broker has to know before it lets anybody in: asked for at every connection. */
  logins: () => BrokerLogin[]
  access: () => BrokerAccess
  /** What was retained when the broker was a part of the product, for one that has kept nothing yet. */
  carryOver: () => Promise<{ topic: string; payload: Uint8Array; qos: 0 | 1 | 2 }[]>
  onMessage: (message: Message) => Promise<void>
  /** Which broker this is: numbers of messages are its own. */
  onBroker: (id: string) => Promise<void>
  behind: () => Promise<void> | null
  onRefused: (topic: string, what: string) => void
  onNode: (node: string, here: boolean) => void
  /** What is retained has been told, and that is all of it. */
  onAllRetained: () => void
  onLink: (up: boolean, why: string | null) => void
  onLost: (messages: number, since: string) => void
  /** Said for the product by the broker when it goes without a word. */
  will: { topic: string; payload: string }
}

const AGAIN_MS = 1000
/** A broker that was stopped on purpose is looked for this often. */
const STOPPED_LOOK_MS = 2000
const ANSWER_MS = 10_000

type WithoutId<T> = T extends unknown ? Omit<T, 'id'> : never

/**
 * Our own broker, a process by itself: found or started, joined with a session that outlasts both, and joined again
 * whenever the line breaks. It knows who may come in from what it is told here.
 */
export class OwnBroker implements Broker {
  private client: MqttClient | null = null
  private asked = new Map<string, (why: string | null) => void>()
  private counted: Pick<Extract<Said, { kind: 'counts' }>, 'clients' | 'connections' | 'listeners'> = {
    clients: 0,
    connections: {},
    listeners: {},
  }
  private retry: NodeJS.Timeout | null = null
  private ended = false
  /** The line is being joined: whoever does so says how it ended, and nobody else begins. */
  private joining = false
  /** The line stands and the broker knows all it has to. */
  private ready = false

  private constructor(private readonly o: OwnOptions) {}

  /** Resolves when the broker runs and knows us; rejects with a sentence when it cannot be started. */
  static async join(o: OwnOptions): Promise<OwnBroker> {
    const broker = new OwnBroker(o)
    await broker.connect(true)
    return broker
  }

  get clients(): number {
    return this.counted.clients
  }

  connectionsOf(login: string): number {
    return this.counted.connections[login] ?? 0
  }

  listenerOf(login: string): Listener | null {
    return this.counted.listeners[login] ?? null
  }

  async cutOff(login: string): Promise<void> {
    await this.ask({ do: 'cut-off', login })
  }

  async putLogins(logins: BrokerLogin[]): Promise<void> {
    if (this.ready) await this.ask({ do: 'logins', logins })
  }

  async putAccess(access: BrokerAccess): Promise<void> {
    if (this.ready) await this.ask({ do: 'access', access })
  }

  async publish(topic: string, payload: string | Buffer, options: { retain: boolean; qos: 0 | 1 }): Promise<void> {
    if (!this.client?.connected) throw new Error('the broker is not connected')
    const bytes = Buffer.from(payload)
    const own = this.o.onMessage({ topic, payload: bytes, ...options, from: null })
    await Promise.all([this.client.publishAsync(topic, bytes, options), own])
  }

  async close(): Promise<void> {
    this.ended = true
    if (this.retry) clearTimeout(this.retry)
    const { client } = this
    if (client?.connected) {
      await client.publishAsync(this.o.will.topic, this.o.will.payload, { qos: 1, retain: true }).catch(() => undefined)
      await client.endAsync().catch(() => undefined)
    } else client?.end(true)
    if (this.o.wanted.ends) await endBroker(this.o.wanted.folder, false)
  }

  /** The broker's process ends with everything in it: another one is used from now on. */
  async endProcess(): Promise<void> {
    await endBroker(this.o.wanted.folder, false)
  }

  private async connect(anyway: boolean): Promise<void> {
    this.joining = true
    try {
      await this.joinLine(anyway)
    } finally {
      this.joining = false
    }
  }

  private async joinLine(anyway: boolean): Promise<void> {
    const { wanted, will } = this.o
    // Loading the client takes a fifth of a second: it is loaded while the broker starts.
    const [{ port, host }, { default: mqtt }] = await Promise.all([ensureBroker(wanted, anyway), import('mqtt')])
    if (this.ended) return
    const secret = brokerSecret(wanted.folder)
    await this.o.onBroker(secret.id)
    const client = mqtt.connect({
      protocol: 'mqtt',
      host: nearest(host),
      port,
      username: PRODUCT.login,
      password: secret.password,
      clientId: PRODUCT.client,
      clean: false,
      reconnectPeriod: 0,
      keepalive: 30,
      connectTimeout: ANSWER_MS,
      will: { topic: will.topic, payload: Buffer.from(will.payload), qos: 1, retain: true },
    })
    this.client = client
    acknowledgeWhenKept(client, (topic, payload, packet) => this.take(topic, payload, packet), this.o.behind)
    await new Promise<void>((joined, failed) => {
      client.once('connect', () => joined())
      client.once('close', () => failed(new Error('the broker does not answer')))
      client.on('error', (e) => failed(e))
    })
    client.on('close', () => this.gone(client))
    await this.ask({ do: 'logins', logins: this.o.logins() })
    await this.ask({ do: 'access', access: this.o.access() })
    this.ready = true
    await this.ask({ do: 'tell' })
    this.o.onLink(true, null)
  }

  /** The line has ended; it is joined again, and a broker that has ended is started again. */
  private gone(client: MqttClient): void {
    if (this.client !== client) return
    this.client = null
    this.ready = false
    for (const answered of this.asked.values()) answered('the line to the broker broke')
    this.asked.clear()
    if (this.ended || this.joining) return
    this.o.onLink(false, 'the line to the broker broke; it is joined again')
    this.again(0)
  }

  private again(afterMs: number): void {
    this.retry = setTimeout(() => {
      this.connect(false).catch((e: unknown) => {
        if (this.ended) return
        this.client?.end(true)
        this.client = null
        this.o.onLink(false, e instanceof Error ? e.message : String(e))
        this.again(e instanceof BrokerStopped ? STOPPED_LOOK_MS : AGAIN_MS)
      })
    }, afterMs)
  }

  private take(marked: string, payload: Buffer, packet: { qos: 0 | 1; retain: boolean }): Promise<void> {
    if (marked === SAID) {
      this.said(saidSchema.parse(JSON.parse(payload.toString())))
      return Promise.resolve()
    }
    const { topic, origin } = originOf(marked) ?? { topic: marked, origin: undefined }
    const message = { topic, payload, qos: packet.qos, retain: origin?.retain ?? packet.retain }
    return this.o.onMessage({ ...message, from: origin?.from ?? null, at: origin?.at, n: origin?.n })
  }

  private said(said: Said): void {
    switch (said.kind) {
      case 'done':
        this.asked.get(said.id)?.(said.why)
        this.asked.delete(said.id)
        return
      case 'state':
        this.counted = said
        for (const node of said.nodes) this.o.onNode(node, true)
        if (said.lost) this.o.onLost(said.lost.messages, said.lost.since)
        if (said.fresh) void this.carryOver().catch(() => undefined)
        else this.o.onAllRetained()
        return
      case 'retained':
        for (const { topic, payload, qos } of said.messages)
          void this.o
            .onMessage({ topic, payload: Buffer.from(payload, 'base64'), qos, retain: true, from: null })
            .catch(() => undefined)
        return
      case 'refused':
        for (const { topic, what } of said.refused) this.o.onRefused(topic, what)
        if (said.more > 0) this.o.onRefused('', `${said.more} more attempts were refused`)
        return
      case 'node':
        return this.o.onNode(said.node, said.here)
      case 'lost':
        return this.o.onLost(said.lost.messages, said.lost.since)
      case 'counts':
        this.counted = said
        return
    }
  }

  private async carryOver(): Promise<void> {
    for (const { topic, payload } of await this.o.carryOver())
      await this.publish(topic, Buffer.from(payload), { retain: true, qos: 1 })
  }

  /** Resolves when the broker has done it; rejects with what it says, or when it says nothing. */
  private async ask(what: WithoutId<Ask>): Promise<void> {
    const { client } = this
    if (!client) throw new Error('the broker is not connected')
    const id = randomUUID()
    const answer = new Promise<string | null>((answered) => {
      this.asked.set(id, answered)
      setTimeout(() => answered('the broker does not answer'), ANSWER_MS).unref()
    })
    client.publish(ASK, JSON.stringify({ id, ...what }), { qos: 1 })
    const why = await answer
    this.asked.delete(id)
    if (why !== null) throw new Error(why)
  }
}

/** Where this machine finds what listens on `host`. */
function nearest(host: string): string {
  if (host === '0.0.0.0') return '127.0.0.1'
  return host === '::' ? '::1' : host
}

import { type IPublishPacket, type Packet, parser, generate } from 'mqtt-packet'
import type { BoardLink, SocketState } from './link'

/** What the modelled broker has taken from the board, with the modelled time it came, ms. */
export interface Taken {
  ms: number
  topic: string
  payload: string
  retain: boolean
}

interface Connection {
  state: SocketState
  inbox: Buffer[]
  parse: ReturnType<typeof parser>
  will: { topic: string; payload: string } | null
  keepAliveMs: number
  heardMs: number
}

/**
 * A broker of MQTT 3.1.1 on a clock somebody else turns, for one board: connections without a network in between, so
 * that days pass in seconds. It answers what a node asks for, publishes the last will when the keep-alive runs out, and
 * can be taken away and brought back.
 */
export class ModelledBroker implements BoardLink {
  readonly taken: Taken[] = []
  /** Moments the node has said it is online. */
  readonly arrivals: number[] = []
  up = true
  /** Its certificate, DER in hex; empty without TLS. */
  der = ''
  isCut = false
  private connections = new Map<number, Connection>()
  private next = 1

  constructor(private readonly now: () => number) {}

  get connected(): boolean {
    return [...this.connections.values()].some((c) => c.state === 'open')
  }

  setCut(cut: boolean): void {
    this.isCut = cut
  }

  open(): number {
    const id = this.next++
    const parse = parser()
    const c: Connection = { state: 'new', inbox: [], parse, will: null, keepAliveMs: 0, heardMs: this.now() }
    parse.on('packet', (p: Packet) => this.take(c, p))
    this.connections.set(id, c)
    return id
  }

  connect(id: number): void {
    const c = this.connections.get(id)
    const reached = this.up ? 'open' : 'refused'
    if (c) c.state = this.isCut ? 'connecting' : reached
  }

  /**
   * Brings keep-alives up to the clock: who has been silent for one and a half of them is gone, and the will is said.
   */
  tick(): void {
    for (const c of this.connections.values())
      if (c.state === 'open' && c.keepAliveMs > 0 && this.now() - c.heardMs > 1.5 * c.keepAliveMs) this.lose(c)
  }

  /** The broker goes away with all its connections, or comes back. */
  setUp(up: boolean): void {
    this.up = up
    if (!up) for (const c of this.connections.values()) if (c.state === 'open') this.lose(c)
  }

  state(id: number): SocketState {
    return this.connections.get(id)?.state ?? 'reset'
  }

  room(_id: number, wanted: number): number {
    return wanted
  }

  send(id: number, hex: string): void {
    const c = this.connections.get(id)
    if (!c || this.isCut || c.state !== 'open') return
    c.heardMs = this.now()
    c.parse.parse(Buffer.from(hex, 'hex'))
  }

  receive(id: number, limit: number): string {
    const c = this.connections.get(id)
    const first = c?.inbox[0]
    if (!c || !first || this.isCut) return ''
    if (first.length <= limit) c.inbox.shift()
    else c.inbox[0] = first.subarray(limit)
    return first.subarray(0, limit).toString('hex')
  }

  waiting(id: number): boolean {
    return !this.isCut && (this.connections.get(id)?.inbox.length ?? 0) > 0
  }

  close(id: number): void {
    const c = this.connections.get(id)
    this.connections.delete(id)
    if (c?.state === 'open' && c.will) this.say(c.will.topic, c.will.payload, true)
  }

  certificate(): string {
    return this.der
  }

  silence(): void {
    for (const c of this.connections.values()) if (c.will) this.say(c.will.topic, c.will.payload, true)
    this.connections.clear()
  }

  closeAll(): void {
    this.silence()
  }

  /** A message to the board, as a controller would send it. */
  tell(topic: string, payload: string): void {
    for (const c of this.connections.values())
      if (c.state === 'open')
        c.inbox.push(Buffer.from(generate({ cmd: 'publish', topic, payload, qos: 0, retain: false, dup: false })))
  }

  private lose(c: Connection): void {
    c.state = 'reset'
    if (c.will) this.say(c.will.topic, c.will.payload, true)
    c.will = null
  }

  private say(topic: string, payload: string, retain: boolean): void {
    this.taken.push({ ms: this.now(), topic, payload, retain })
    if (topic.endsWith('/status') && payload.includes('online')) this.arrivals.push(this.now())
  }

  private take(c: Connection, p: Packet): void {
    const answer = (packet: Packet) => c.inbox.push(Buffer.from(generate(packet)))
    switch (p.cmd) {
      case 'connect':
        c.keepAliveMs = (p.keepalive ?? 0) * 1000
        c.will = p.will ? { topic: p.will.topic, payload: String(p.will.payload) } : null
        return void answer({ cmd: 'connack', returnCode: 0, sessionPresent: false })
      case 'subscribe':
        return void answer({ cmd: 'suback', messageId: p.messageId, granted: [1] })
      case 'pingreq':
        return void answer({ cmd: 'pingresp' })
      case 'publish': {
        const { topic, payload, qos, messageId, retain }: IPublishPacket = p
        this.say(topic, payload.toString(), retain)
        if (qos > 0) answer({ cmd: 'puback', messageId })
        return
      }
      case 'disconnect':
        c.will = null
        c.state = 'ended'
        return
      default:
        return
    }
  }
}

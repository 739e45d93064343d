import { Aedes, type AedesPublishPacket, type AuthenticateError, type Client as AedesClient } from 'aedes'
import net from 'node:net'
import type { RetainedRow } from '../db/messageRows'
import { type Client, mayForward, mayPublish, maySubscribe } from './access'
import type { Logins } from './logins'

export interface BrokerOptions {
  host: string
  port: number
  root: string
  logins: Logins
  retained: RetainedRow[]
  /** Slugs a node may publish under. */
  slugsOf: (node: string) => readonly string[]
  onMessage: (message: Message) => void
  onRefused: (topic: string, what: string) => void
  /** A node's connection begins or ends. */
  onNode: (node: string, connected: boolean) => void
}

export interface Message { topic: string; payload: Buffer; retain: boolean; qos: 0 | 1 | 2; from: string | null }

export interface Broker {
  publish(topic: string, payload: string, options: { retain: boolean; qos: 0 | 1 }): Promise<void>
  readonly clients: number
  close(): Promise<void>
}

const BAD_LOGIN = 4
type Session = Client & { name: string; node: string | null }

/** The embedded broker on real TCP: logins by role, retained messages given back at the start. */
export async function startBroker(options: BrokerOptions): Promise<Broker> {
  const { root } = options
  const sessions = new WeakMap<AedesClient, Session>()
  const access = (s: Session): Client => ({ role: s.role, slugs: s.node === null ? [] : options.slugsOf(s.node) })
  const refuse = (client: AedesClient, topic: string, what: string) => {
    options.onRefused(topic, `${sessions.get(client)?.name ?? client.id}: ${what}`)
    return new Error(what)
  }

  const aedes = await Aedes.createBroker({
    authenticate: (client, name, password, done) => {
      options.logins.check(name ?? '', password?.toString() ?? '').then((row) => {
        if (row) sessions.set(client, { role: row.role, slugs: [], name: row.name, node: row.node_id })
        else options.onRefused('', `login of “${(name ?? '').slice(0, 40)}” refused`)
        done(row ? null : Object.assign(new Error('wrong name or password'), { returnCode: BAD_LOGIN }) as AuthenticateError, row !== null)
      }, (e: unknown) => done(Object.assign(e instanceof Error ? e : new Error(String(e)), { returnCode: 3 }) as AuthenticateError, false))
    },
    authorizePublish: (client, packet, done) => {
      if (!client) return done(null)
      const session = sessions.get(client)
      // The last will was allowed or not when it was given; the session may be gone by now.
      done(session && mayPublish(root, access(session), packet.topic) ? null : refuse(client, packet.topic, 'may not publish here'))
    },
    authorizeSubscribe: (client, subscription, done) => {
      const session = sessions.get(client)
      if (session && maySubscribe(root, access(session), subscription.topic)) return done(null, subscription)
      refuse(client, subscription.topic, 'may not subscribe to this')
      done(null, null)
    },
    authorizeForward: (client, packet) => {
      const session = sessions.get(client)
      return session && mayForward(root, access(session), packet.topic) ? packet : null
    },
  })

  for (const r of options.retained) await publish(aedes, { topic: r.topic, payload: Buffer.from(r.payload), retain: true, qos: r.qos })

  aedes.on('publish', (packet: AedesPublishPacket, client: AedesClient | null) => {
    if (packet.topic.startsWith('$SYS/')) return
    const payload = Buffer.isBuffer(packet.payload) ? packet.payload : Buffer.from(packet.payload)
    options.onMessage({ topic: packet.topic, payload, retain: packet.retain, qos: packet.qos, from: client ? sessions.get(client)?.name ?? client.id : null })
  })
  const nodeOf = (client: AedesClient) => sessions.get(client)?.node ?? null
  aedes.on('clientReady', (client) => {
    const node = nodeOf(client)
    if (node !== null) options.onNode(node, true)
  })
  aedes.on('clientDisconnect', (client) => {
    const node = nodeOf(client)
    if (node !== null) options.onNode(node, false)
  })

  const server = net.createServer(aedes.handle)
  await new Promise<void>((listening, failed) => {
    server.once('error', failed)
    server.listen(options.port, options.host, listening)
  })
  return {
    publish: (topic, payload, { retain, qos }) => publish(aedes, { topic, payload: Buffer.from(payload), retain, qos }),
    get clients() {
      return aedes.connectedClients
    },
    close: () => new Promise((closed) => {
      aedes.close(() => server.close(() => closed()))
    }),
  }
}

function publish(aedes: Aedes, packet: { topic: string; payload: Buffer; retain: boolean; qos: 0 | 1 | 2 }): Promise<void> {
  return new Promise((done, failed) => {
    aedes.publish({ cmd: 'publish', dup: false, ...packet }, (e) => (e ? failed(e) : done()))
  })
}

import { Aedes, type AedesPublishPacket, type AuthenticateError, type Client as AedesClient } from 'aedes'
import fs from 'node:fs'
import net from 'node:net'
import { Duplex } from 'node:stream'
import tls from 'node:tls'
import type { RetainedRow } from '../db/messageRows'
import { type Client, mayForward, mayPublish, maySubscribe } from './access'
import type { Logins } from './logins'
import { PacketLimit } from './packetLimit'

export interface BrokerOptions {
  host: string
  port: number
  root: string
  /** A second listener with the user's certificate. */
  tls: { port: number; certFile: string; keyFile: string } | null
  logins: Logins
  retained: RetainedRow[]
  /** Slugs a node may publish under. */
  slugsOf: (node: string) => readonly string[]
  /** Takes a message; resolves when what it keeps of it is durable. */
  onMessage: (message: Message) => Promise<void>
  /** True while what has been taken outruns the database: then even unacknowledged messages wait. */
  behind: () => boolean
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
type Session = Client & { name: string; node: string | null; /** The last topic it was allowed, and under which slugs. */ last?: { topic: string; slugs: readonly string[] } }
const NONE: readonly string[] = []

/** The embedded broker on real TCP: logins by role, retained messages given back at the start. */
export async function startBroker(options: BrokerOptions): Promise<Broker> {
  const { root } = options
  const sessions = new WeakMap<AedesClient, Session>()
  const access = (s: Session): Client => ({ role: s.role, slugs: s.node === null ? NONE : options.slugsOf(s.node) })
  /** Most of what a client publishes goes where its last message went: that is looked up, not worked out. */
  const allowed = (s: Session, topic: string): boolean => {
    const slugs = s.node === null ? NONE : options.slugsOf(s.node)
    if (s.last?.topic === topic && s.last.slugs === slugs) return true
    if (!mayPublish(root, { role: s.role, slugs }, topic)) return false
    s.last = { topic, slugs }
    return true
  }
  const taken = new WeakSet<object>()
  const told = new WeakSet<AedesClient>()
  const refuse = (client: AedesClient, topic: string, what: string) => {
    told.add(client)
    options.onRefused(topic, `${sessions.get(client)?.name ?? client.id}: ${what}`)
    return new Error(what)
  }

  const aedes = await Aedes.createBroker({
    authenticate: (client, name, password, done) => {
      options.logins.check(name ?? '', password?.toString() ?? '').then((row) => {
        if (row) {
          sessions.set(client, { role: row.role, slugs: [], name: row.name, node: row.node_id })
          // An id belongs to its login: whoever calls himself like another's client takes over nothing.
          client.id = `${row.name}/${client.id}`
        }
        else {
          told.add(client)
          options.onRefused('', `login of “${(name ?? '').slice(0, 40)}” refused`)
        }
        done(row ? null : Object.assign(new Error('wrong name or password'), { returnCode: BAD_LOGIN }) as AuthenticateError, row !== null)
      }, (e: unknown) => done(Object.assign(e instanceof Error ? e : new Error(String(e)), { returnCode: 3 }) as AuthenticateError, false))
    },
    authorizePublish: (client, packet, done) => {
      if (!client) return done(null)
      const session = sessions.get(client)
      if (!session || packet.topic.includes('\0') || !allowed(session, packet.topic))
        return done(refuse(client, packet.topic, 'may not publish here'))
      if (packet.retain && packet.topic.endsWith('/set') && packet.payload.length > 0) {
        // A command that is kept would be done again at every connection: it goes nowhere, and that is said.
        options.onRefused(packet.topic, `${session.name}: a retained command was ignored`)
        packet.topic = '$SYS/ignored'
        packet.retain = false
        return done(null)
      }
      if (packet.qos === 0 && !options.behind()) return done(null)
      // The acknowledgement waits until the rows are durable; so does the sender's next message when we fall behind.
      taken.add(packet)
      options.onMessage(toMessage(packet, session.name)).then(() => done(null), (e: unknown) => done(e instanceof Error ? e : new Error(String(e))))
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
    if (client && (packet.qos > 0 || taken.has(packet))) return
    void options.onMessage(toMessage(packet, client ? sessions.get(client)?.name ?? client.id : null))
  })
  const nodeOf = (client: AedesClient) => sessions.get(client)?.node ?? null
  /** Sessions of each node: it is here while one of them is. */
  const here = new Map<string, Set<AedesClient>>()
  aedes.on('clientReady', (client) => {
    const node = nodeOf(client)
    if (node === null) return
    here.set(node, (here.get(node) ?? new Set()).add(client))
    options.onNode(node, true)
  })
  aedes.on('clientDisconnect', (client) => {
    const node = nodeOf(client)
    const left = node === null ? undefined : here.get(node)
    if (node === null || !left?.delete(client) || left.size > 0) return
    here.delete(node)
    options.onNode(node, false)
  })

  for (const event of ['clientError', 'connectionError'] as const) {
    aedes.on(event, (client, error) => {
      // Refusals have been told already, and a connection may end at any time; what is left is a stream that made no sense.
      if (told.has(client) || 'code' in error) return
      options.onRefused('', `${sessions.get(client)?.name ?? 'a client'}: ${error.message.slice(0, 120)}`)
    })
  }
  const accept = (socket: net.Socket) => {
    const limit = new PacketLimit()
    // The broker passes the error on as one of the client's; here the line only has to end.
    limit.on('error', () => socket.destroy())
    socket.on('error', () => limit.destroy())
    socket.on('close', () => limit.destroy())
    aedes.handle(Duplex.from({ readable: socket.pipe(limit), writable: socket }))
  }
  const servers: net.Server[] = [net.createServer(accept)]
  await listen(servers[0] ?? net.createServer(accept), options.port, options.host)
  if (options.tls) {
    const secure = tls.createServer({ cert: fs.readFileSync(options.tls.certFile), key: fs.readFileSync(options.tls.keyFile), minVersion: 'TLSv1.2' }, accept)
    secure.on('tlsClientError', (e) => options.onRefused('', `secure connection: ${e.message.slice(0, 120)}`))
    servers.push(secure)
    await listen(secure, options.tls.port, options.host)
  }
  return {
    publish: (topic, payload, { retain, qos }) => publish(aedes, { topic, payload: Buffer.from(payload), retain, qos }),
    get clients() {
      return aedes.connectedClients
    },
    close: () => new Promise((closed) => {
      aedes.close(() => {
        void Promise.all(servers.map((s) => new Promise((r) => s.close(r)))).then(() => closed())
      })
    }),
  }
}

function listen(server: net.Server, port: number, host: string): Promise<void> {
  return new Promise((listening, failed) => {
    server.once('error', failed)
    server.listen(port, host, listening)
  })
}

function toMessage(packet: { topic: string; payload: string | Buffer; retain: boolean; qos: 0 | 1 | 2 }, from: string | null): Message {
  const payload = Buffer.isBuffer(packet.payload) ? packet.payload : Buffer.from(packet.payload)
  return { topic: packet.topic, payload, retain: packet.retain, qos: packet.qos, from }
}

function publish(aedes: Aedes, packet: { topic: string; payload: Buffer; retain: boolean; qos: 0 | 1 | 2 }): Promise<void> {
  return new Promise((done, failed) => {
    aedes.publish({ cmd: 'publish', dup: false, ...packet }, (e) => (e ? failed(e) : done()))
  })
}

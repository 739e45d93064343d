import { Aedes, type AedesPublishPacket, type AuthenticateError, type Client as AedesClient } from 'aedes'
import fs from 'node:fs'
import net from 'node:net'
import tls from 'node:tls'
import type { RetainedRow } from '../db/messageRows'
import { type Client, mayForward, mayPublish, maySubscribe } from './access'
import { boundSessions, BOUNDS, RetainedShares, type Sessions } from './bounds'
import { Line } from './line'
import type { Logins } from './logins'
import { Turns } from './turns'

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

export interface Message {
  topic: string
  payload: Buffer
  retain: boolean
  qos: 0 | 1 | 2
  from: string | null
}

export interface Broker {
  publish(topic: string, payload: string, options: { retain: boolean; qos: 0 | 1 }): Promise<void>
  readonly clients: number
  /** Connections a login has. */
  connectionsOf(login: string): number
  /** Ends them. */
  cutOff(login: string): void
  close(): Promise<void>
}

const BAD_LOGIN = 4
const UNAVAILABLE = 3
/** A secure handshake that takes longer than this makes room for others, ms. */
const HANDSHAKE_MS = 5000

interface Session extends Client {
  name: string
  node: string | null
  subscriptions: Set<string>
  /** The last topic it was allowed, and under which slugs. */
  last?: { topic: string; slugs: readonly string[] }
}
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
  const shares = new RetainedShares()
  const lines = new WeakMap<object, Line>()
  const clients = new WeakMap<Line, AedesClient>()
  /** Open connections of each login. */
  const connections = new Map<string, Set<AedesClient>>()
  const taken = new WeakSet<object>()
  let bounded: ReturnType<typeof boundSessions> | null = null
  const told = new WeakSet<AedesClient>()
  const refuse = (client: AedesClient, topic: string, what: string) => {
    told.add(client)
    options.onRefused(topic, `${sessions.get(client)?.name ?? client.id}: ${what}`)
    return new Error(what)
  }

  const aedes = await Aedes.createBroker({
    authenticate: (client, name, password, done) => {
      const line = lines.get(client.conn)
      const refused = (why: string, returnCode: number) => {
        told.add(client)
        options.onRefused('', why)
        done(Object.assign(new Error(why), { returnCode }) as AuthenticateError, false)
      }
      const asker = { address: line?.address ?? '', gone: () => line?.gone ?? false }
      options.logins.check(name ?? '', password?.toString() ?? '', asker).then(
        (row) => {
          const who = `login of “${(name ?? '').slice(0, 40)}”`
          if (row === 'busy') return refused(`${who} put off: too many are being tried`, UNAVAILABLE)
          if (!row) return refused(`${who} refused`, BAD_LOGIN)
          // Whoever has gone meanwhile is not let in any more.
          if (asker.gone()) return done(null, false)
          const open = (connections.get(row.name) ?? new Set()).add(client)
          if (open.size > BOUNDS.connections) {
            open.delete(client)
            return refused(`${who} refused: it has ${BOUNDS.connections} connections already`, UNAVAILABLE)
          }
          connections.set(row.name, open)
          sessions.set(client, {
            role: row.role,
            slugs: [],
            name: row.name,
            node: row.node_id,
            subscriptions: new Set(),
          })
          // An id belongs to its login: whoever calls himself like another's client takes over nothing.
          client.id = `${row.name}/${client.id}`
          done(null, true)
        },
        (e: unknown) => refused(e instanceof Error ? e.message : String(e), UNAVAILABLE),
      )
    },
    authorizePublish: (client, packet, done) => {
      if (!client) return done(null)
      const session = sessions.get(client)
      if (!session || packet.topic.includes('\0') || !allowed(session, packet.topic))
        return done(refuse(client, packet.topic, 'may not publish here'))
      // A command that is kept would be done again at every connection.
      const isCommand = packet.retain && packet.topic.endsWith('/set') && packet.payload.length > 0
      const overShare = packet.retain ? shares.take(packet.topic, packet.payload.length) : null
      const beyond = isCommand ? 'a retained command was ignored' : overShare
      if (beyond !== null) {
        // It goes nowhere, and that is said; the line stays.
        options.onRefused(packet.topic, `${session.name}: ${beyond}`)
        packet.topic = '$SYS/ignored'
        packet.retain = false
        return done(null)
      }
      if (packet.qos === 0 && !options.behind()) return done(null)
      // The acknowledgement waits until the rows are durable; so does the sender's next message when we fall behind.
      taken.add(packet)
      options.onMessage(toMessage(packet, session.name)).then(
        () => done(null),
        (e: unknown) => done(e instanceof Error ? e : new Error(String(e))),
      )
    },
    authorizeSubscribe: (client, subscription, done) => {
      const session = sessions.get(client)
      const { topic } = subscription
      const full = session && session.subscriptions.size >= BOUNDS.subscriptions && !session.subscriptions.has(topic)
      if (session && !full && maySubscribe(root, access(session), topic)) {
        session.subscriptions.add(topic)
        return done(null, subscription)
      }
      refuse(client, topic, full ? `has ${BOUNDS.subscriptions} subscriptions already` : 'may not subscribe to this')
      done(null, null)
    },
    authorizeForward: (client, packet) => {
      const session = sessions.get(client)
      if (session && mayForward(root, access(session), packet.topic)) return packet
      bounded?.refused(client.id, packet)
      return null
    },
  })

  bounded = boundSessions((aedes as unknown as { persistence: Sessions }).persistence, (client) =>
    options.onRefused(
      '',
      `${client.slice(0, 80)}: more than ${BOUNDS.waiting} messages or ${BOUNDS.waitingBytes} bytes wait for it; what comes now is dropped`,
    ),
  )
  aedes.on('unsubscribe', (topics, client) => {
    for (const topic of topics) sessions.get(client)?.subscriptions.delete(topic)
  })
  for (const r of options.retained) shares.take(r.topic, r.payload.length)
  for (const r of options.retained)
    await publish(aedes, { topic: r.topic, payload: Buffer.from(r.payload), retain: true, qos: r.qos })

  aedes.on('publish', (packet: AedesPublishPacket, client: AedesClient | null) => {
    if (packet.topic.startsWith('$SYS/')) return
    if (client && (packet.qos > 0 || taken.has(packet))) return
    void options.onMessage(toMessage(packet, client ? (sessions.get(client)?.name ?? client.id) : null))
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
      // Refusals have been told already, and a connection may end at any time; what is left is a stream that made no
      // sense.
      if (told.has(client) || 'code' in error) return
      options.onRefused('', `${sessions.get(client)?.name ?? 'a client'}: ${error.message.slice(0, 120)}`)
    })
  }
  const accept = (socket: net.Socket) => {
    const line = new Line(socket, (cut, why) => {
      const client = clients.get(cut)
      if (client) told.add(client)
      options.onRefused(
        '',
        `${client ? (sessions.get(client)?.name ?? 'a client') : 'a client'}: ${why}; its line was cut`,
      )
    })
    lines.set(line, line)
    const client = aedes.handle(line)
    clients.set(line, client)
    line.once('close', () => {
      const name = sessions.get(client)?.name
      if (name !== undefined && connections.get(name)?.delete(client) && connections.get(name)?.size === 0)
        connections.delete(name)
    })
  }
  const servers: net.Server[] = [net.createServer(accept)]
  try {
    await listen(servers[0] ?? net.createServer(accept), options.port, options.host)
    if (options.tls) {
      const { port, certFile, keyFile } = options.tls
      const keys = { cert: fs.readFileSync(certFile), key: fs.readFileSync(keyFile) }
      const secure = tls.createServer({ ...keys, minVersion: 'TLSv1.2' }, accept)
      secure.on('tlsClientError', (e) => options.onRefused('', `secure connection: ${e.message.slice(0, 120)}`))
      // Handshakes are work: each address has its turn, and the connection waits for its own before a byte of it is
      // read.
      const turns = new Turns({ running: 4, waiting: 1000, alike: 250 })
      const raw = net.createServer({ pauseOnConnect: true }, (socket) => {
        socket.on('error', () => socket.destroy())
        const shaken = () =>
          new Promise<void>((done) => {
            socket.once('close', () => done())
            onShaken.set(`${socket.remoteAddress}:${socket.remotePort}`, done)
            setTimeout(done, HANDSHAKE_MS).unref()
            secure.emit('connection', socket)
            socket.resume()
          })
        void turns
          .ask(socket.remoteAddress ?? '', () => socket.destroyed, shaken)
          .then((done) => done === null && socket.destroy())
      })
      const onShaken = new Map<string, () => void>()
      secure.on('secureConnection', (s) => {
        const from = `${s.remoteAddress}:${s.remotePort}`
        onShaken.get(from)?.()
        onShaken.delete(from)
      })
      servers.push(raw)
      await listen(raw, port, options.host)
    }
  } catch (e) {
    for (const server of servers) server.close()
    await new Promise<void>((closed) => aedes.close(() => closed()))
    throw e
  }
  return {
    publish: (topic, payload, { retain, qos }) => publish(aedes, { topic, payload: Buffer.from(payload), retain, qos }),
    get clients() {
      return aedes.connectedClients
    },
    connectionsOf: (login) => connections.get(login)?.size ?? 0,
    cutOff: (login) => {
      for (const client of connections.get(login) ?? []) client.close()
    },
    close: () =>
      new Promise((closed) => {
        aedes.close(() => {
          void Promise.all(servers.map((s) => new Promise((r) => s.close(r)))).then(() => closed())
        })
      }),
  }
}

function listen(server: net.Server, port: number, host: string): Promise<void> {
  return new Promise((listening, failed) => {
    server.once('error', (e) => {
      const taken = 'code' in e && e.code === 'EADDRINUSE'
      failed(
        taken
          ? new Error(
              `Port ${port} is taken by another program: our own broker cannot listen there. Stop that one, choose another port (MQTT_PORT), or, if it is a broker you use, enter it as the outside broker.`,
            )
          : e,
      )
    })
    server.listen(port, host, listening)
  })
}

function toMessage(
  packet: { topic: string; payload: string | Buffer; retain: boolean; qos: 0 | 1 | 2 },
  from: string | null,
): Message {
  const payload = Buffer.isBuffer(packet.payload) ? packet.payload : Buffer.from(packet.payload)
  return { topic: packet.topic, payload, retain: packet.retain, qos: packet.qos, from }
}

function publish(
  aedes: Aedes,
  packet: { topic: string; payload: Buffer; retain: boolean; qos: 0 | 1 | 2 },
): Promise<void> {
  return new Promise((done, failed) => {
    aedes.publish({ cmd: 'publish', dup: false, ...packet }, (e) => (e ? failed(e) : done()))
  })
}

import { Aedes, type AuthenticateError, type Client as AedesClient, type PublishPacket } from 'aedes'
import fs from 'node:fs'
import net from 'node:net'
import tls from 'node:tls'
import { type Listener, ASK, type BrokerAccess, type Role, SAID, type Said } from '../wire/brokerControl'
import { type Client, mayForward, mayPublish, maySubscribe } from './access'
import { boundSessions, BOUNDS, RetainedShares, type Sessions } from './bounds'
import type { KeptMessages } from './keptMessages'
import { Line } from './line'
import type { LoginCheck } from './loginCheck'
import { PRODUCT_ID, ProductSession } from './productSession'
import { Turns } from './turns'

export interface BrokerOptions {
  host: string
  port: number
  root: string
  /** A second listener with the user's certificate. */
  tls: { port: number; certFile: string; keyFile: string } | null
  logins: LoginCheck
  /** Retained messages and what waits for the product; null for a broker that keeps nothing and has no product. */
  store: KeptMessages | null
  access: () => BrokerAccess
  onRefused: (topic: string, what: string) => void
  /** A node's connection begins or ends. */
  onNode: (node: string, connected: boolean) => void
  /** The product asks for something; kept when it is done. */
  onAsk: (text: string) => Promise<void>
}

export interface Broker {
  publish(topic: string, payload: string, options: { retain: boolean; qos: 0 | 1 }): Promise<void>
  /** To the product, when it is connected. */
  say(said: Said): void
  readonly clients: number
  /** Ids of nodes that are connected. */
  readonly nodes: string[]
  /** Connections of each login. */
  readonly connections: Record<string, number>
  /** Controllers and guests that are connected. */
  readonly listeners: Record<string, Listener>
  /** Ends the connections of a login. */
  cutOff(login: string): void
  close(): Promise<void>
}

/** Filters of a controller that are told; one that asks topic by topic has hundreds. */
const MOST_FILTERS = 500
const BAD_LOGIN = 4
const UNAVAILABLE = 3
/** A secure handshake that takes longer than this makes room for others, ms. */
const HANDSHAKE_MS = 5000
/**
 * Bytes the product may be behind before those who publish wait for it, how long they do, ms, and from where it gets
 * only what has to arrive.
 */
const BEHIND = { slow: 1024 * 1024, ms: 500, drop: 8 * 1024 * 1024 } as const
/** The product may send long lists. */
const LARGEST_OF_PRODUCT = 16 * 1024 * 1024
/** Packets a client may send while what has waited for it is being sent. */
const QUEUED_AT_START = 100_000

interface Session {
  role: Role
  name: string
  node: string | null
  subscriptions: Set<string>
  since: Date
  /** The last topic it was allowed, and by which list. */
  last?: { topic: string; by: BrokerAccess }
}

/**
 * The embedded broker on real TCP: logins by role, retained messages given back at the start, and a session of the
 * product that outlasts both.
 */
export async function startBroker(options: BrokerOptions): Promise<Broker> {
  const { root } = options
  const sessions = new WeakMap<AedesClient, Session>()
  const access = (s: Session): Client => ({ role: s.role, own: options.access()[s.node ?? s.name] })
  /** Most of what a client publishes goes where its last message went: that is looked up, not worked out. */
  const allowed = (s: Session, topic: string): boolean => {
    const by = options.access()
    if (s.last?.topic === topic && s.last.by === by) return true
    if (!mayPublish(root, access(s), topic)) return false
    s.last = { topic, by }
    return true
  }
  const shares = new RetainedShares(root)
  const lines = new WeakMap<object, Line>()
  const clients = new WeakMap<Line, AedesClient>()
  /** Open connections of each login. */
  const connections = new Map<string, Set<AedesClient>>()
  /** The product's connection, while it has one. */
  let product: { client: AedesClient; line: Line | undefined } | null = null
  let session: ProductSession | null = null
  let bounded: ReturnType<typeof boundSessions> | null = null
  const told = new WeakSet<AedesClient>()
  const refuse = (client: AedesClient, topic: string, what: string) => {
    told.add(client)
    options.onRefused(topic, `${sessions.get(client)?.name ?? client.id}: ${what}`)
    return new Error(what)
  }

  /** Goes nowhere, and that is said; the line stays. */
  const drop = (packet: { topic: string; retain: boolean }, who: string, what: string) => {
    options.onRefused(packet.topic, `${who}: ${what}`)
    packet.topic = '$SYS/ignored'
    packet.retain = false
  }
  const unread = () => product?.line?.unread ?? 0

  const aedes = await Aedes.createBroker({
    queueLimit: QUEUED_AT_START,
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
            name: row.name,
            node: row.node,
            subscriptions: new Set(),
            since: new Date(),
          })
          // An id belongs to its login: whoever calls himself like another's client takes over nothing.
          client.id = `${row.name}/${client.id}`
          if (client.id === PRODUCT_ID) {
            product = { client, line }
            line?.trust(LARGEST_OF_PRODUCT)
            session?.came()
          }
          done(null, true)
        },
        (e: unknown) => refused(e instanceof Error ? e.message : String(e), UNAVAILABLE),
      )
    },
    authorizePublish: (client, packet, done) => {
      if (!client) return done(null)
      const who = sessions.get(client)
      if (!who) return done(refuse(client, packet.topic, 'may not publish here'))
      if (who.role === 'product' && packet.topic === ASK) {
        const ask = packet.payload.toString()
        packet.topic = '$SYS/ignored'
        void options.onAsk(ask)
        return done(null)
      }
      if (packet.topic.includes('\0') || !allowed(who, packet.topic)) {
        drop(packet, who.name, 'may not publish here')
        return done(null)
      }
      // A command that is kept would be done again at every connection.
      const isCommand = packet.retain && packet.topic.endsWith('/set') && packet.payload.length > 0
      const overShare = packet.retain ? shares.take(packet.topic, packet.payload.length) : null
      const beyond = isCommand ? 'a retained command was ignored' : overShare
      if (beyond !== null) {
        drop(packet, who.name, beyond)
        return done(null)
      }
      keep(packet, who.name, who.role !== 'product').then(
        () => done(null),
        (e: unknown) => done(e instanceof Error ? e : new Error(String(e))),
      )
    },
    authorizeSubscribe: (client, subscription, done) => {
      if (client.id === PRODUCT_ID) return done(null, subscription)
      const who = sessions.get(client)
      const { topic } = subscription
      const full = who && who.subscriptions.size >= BOUNDS.subscriptions && !who.subscriptions.has(topic)
      if (who && !full && maySubscribe(access(who), topic)) {
        who.subscriptions.add(topic)
        return done(null, subscription)
      }
      refuse(client, topic, full ? `has ${BOUNDS.subscriptions} subscriptions already` : 'may not subscribe to this')
      done(null, null)
    },
    authorizeForward: (client, packet) => {
      if (client.id === PRODUCT_ID) {
        const late = packet.qos === 0 && unread() > BEHIND.drop
        if (late) options.onRefused(packet.topic, 'Vivid Node is too far behind: this one was not stored')
        return late ? null : (session?.forward(packet) ?? null)
      }
      const who = sessions.get(client)
      if (who && mayForward(root, access(who), packet.topic)) return packet
      bounded?.refused(client.id, packet)
      return null
    },
  })

  /** Where a message came from is remembered for the product; what has to be kept is on the disk when this is done. */
  async function keep(packet: PublishPacket, from: string, waits: boolean): Promise<void> {
    const { store } = options
    if (!store) return
    if (packet.payload.length === 0) packet.payload = Buffer.alloc(0)
    const payload = Buffer.isBuffer(packet.payload) ? packet.payload : Buffer.from(packet.payload)
    const { topic, qos, retain } = packet
    const message = { topic, payload, qos, retain, from, at: Date.now() }
    const [mustKeep, isForProduct] = [qos > 0 && (retain || waits), waits]
    if (!mustKeep) {
      if (isForProduct) session?.comes(packet.payload as object, { from, at: message.at, retain, n: 0 })
      if (retain) store.keepSoon(message)
      // Who publishes faster than is stored waits, a little: a product that has stopped must not stop the house.
      if (unread() > BEHIND.slow) await product?.line?.calm(BEHIND.slow, BEHIND.ms)
      return
    }
    const { n, kept } = store.keep(message, waits)
    if (waits) session?.comes(packet.payload as object, { from, at: message.at, retain, n })
    if (waits && n === 0 && store.lost) say({ kind: 'lost', lost: store.lost })
    await kept
  }

  const say = (said: Said): void => {
    if (product && !product.client.closed)
      void publish(aedes, { topic: SAID, payload: Buffer.from(JSON.stringify(said)), retain: false, qos: 0 })
  }

  const { persistence } = aedes as unknown as { persistence: Sessions }
  bounded = boundSessions(persistence, (client) =>
    options.onRefused(
      '',
      `${client.slice(0, 80)}: more than ${BOUNDS.waiting} messages or ${BOUNDS.waitingBytes} bytes wait for it; what comes now is dropped`,
    ),
  )
  if (options.store) {
    session = new ProductSession(persistence, options.store)
    await session.subscribe(persistence, [
      { topic: `${root}/#`, qos: 1 },
      { topic: 'standin/#', qos: 1 },
      { topic: SAID, qos: 0 },
    ])
    for (const r of options.store.retained.values()) {
      shares.take(r.topic, r.payload.length)
      await publish(aedes, { topic: r.topic, payload: r.payload, retain: true, qos: r.qos })
    }
    for (const w of [...options.store.waiting.values()].sort((x, y) => x.n - y.n)) {
      session.comes(w.payload, w)
      const { topic, payload, qos } = w
      await publish(aedes, { topic, payload, retain: false, qos })
    }
  }
  aedes.on('unsubscribe', (topics, client) => {
    for (const topic of topics) sessions.get(client)?.subscriptions.delete(topic)
  })
  const nodeOf = (client: AedesClient) => sessions.get(client)?.node ?? null
  /** Sessions of each node: it is here while one of them is. */
  const here = new Map<string, Set<AedesClient>>()
  aedes.on('clientReady', (client) => {
    if (client.id === PRODUCT_ID) session?.emptied(client)
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
  // Answers are small and wait for nothing: gathering them, together with the other end's delayed acknowledgement of
  // segments, holds each up for 40 ms.
  const servers: net.Server[] = [net.createServer({ noDelay: true }, accept)]
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
      const raw = net.createServer({ pauseOnConnect: true, noDelay: true }, (socket) => {
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
    say,
    get clients() {
      // The product is no client of its own.
      return aedes.connectedClients - (product && !product.client.closed ? 1 : 0)
    },
    get nodes() {
      return [...here.keys()]
    },
    get connections() {
      return Object.fromEntries([...connections].map(([login, open]) => [login, open.size]))
    },
    get listeners() {
      const out: Record<string, Listener> = {}
      for (const [login, open] of connections) {
        const all = [...open].flatMap((c) => sessions.get(c) ?? [])
        if (!all.some((s) => s.role === 'controller' || s.role === 'guest')) continue
        const first = Math.min(...all.map((s) => s.since.getTime()))
        const filters = [...new Set(all.flatMap((s) => [...s.subscriptions]))].sort()
        out[login] = { since: new Date(first).toISOString(), filters: filters.slice(0, MOST_FILTERS) }
      }
      return out
    },
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

function publish(
  aedes: Aedes,
  packet: { topic: string; payload: Buffer; retain: boolean; qos: 0 | 1 | 2 },
): Promise<void> {
  return new Promise((done, failed) => {
    aedes.publish({ cmd: 'publish', dup: false, ...packet }, (e) => (e ? failed(e) : done()))
  })
}

import { guestAccess } from '../../core/publish/access'
import { goneAfterS } from '../../core/publish/staleness'
import { X509Certificate } from 'node:crypto'
import fs from 'node:fs'
import { z } from 'zod'
import { sha256Hex } from '../../core/hash/sha256Hex'
import type { BrokerAddress } from '../../core/publish/describe'
import { splitTopic, topicsOf } from '../../core/publish/topics'
import { brokerParts, type BrokerSettings, brokerSettingsSchema } from '../../core/shop/brokerSettings'
import type { Listener, BrokerAccess } from '../../wire/brokerControl'
import type { BrokerView } from '../../wire/protocol'
import type { Database } from '../db/database'
import { allRetained } from '../db/messageRows'
import { putSettings, readSetting } from '../db/settingRows'
import type { Ingest } from '../live/ingest'
import type { LiveStream } from '../live/stream'
import type { NodeAccess } from '../nodes/nodeAccess'
import type { Workshop } from '../nodes/workshop'
import type { Sealer } from '../secrets/sealer'
import type { Broker } from './broker'
import { brokerFolderOf } from './brokerProcess'
import type { Logins } from './logins'
import { connectOutside } from './outside'
import { OwnBroker } from './ownBroker'

/** The line to a broker, how it stands, and which nodes are at its other end. */
interface Line {
  broker: Broker | null
  link: { up: boolean; why: string | null }
  here: Set<string>
}
const noLine = (why: string): Line => ({ broker: null, link: { up: false, why }, here: new Set() })
/** An outside broker has to let us in within this; a broker that did not start is tried again after that. */
const JOIN_MS = 10_000
const BROKER_AGAIN_MS = 10_000
const TIME_MS = 60_000
const OUTSIDE_PASSWORD = 'password of the outside broker'
const NODE_PASSWORD = 'password of nodes at the outside broker'

export interface BrokerLinkOptions {
  db: Database
  root: string
  logins: Logins
  stream: LiveStream
  workshop: Workshop
  ingest: Ingest
  nodeAccess: NodeAccess
  sealer: Sealer
  /** Where the embedded broker listens. */
  host: string
  port: number
  project: string
  dataFolder: string
  /** The embedded broker's process ends with the product, however that ends. */
  brokerEnds: boolean
  /** Name under which nodes reach it, when that is not `host`. */
  reachedAs: () => string | undefined
  tls: { port: number; certFile: string; keyFile: string } | null
  /** True where nothing works without the embedded broker: it then has to start. */
  mustStart: boolean
  onNode: (node: string, here: boolean) => void
  onMoved: () => void
}

/** The broker this shop uses, its own or one outside: where it is, how the line to it stands, who is at its end. */
export class BrokerLink {
  private line: Line = noLine('not started')
  private timers: NodeJS.Timeout[] = []
  private toldAccess = ''
  /** SHA-256 of the broker's certificate, once it has been read. */
  private certificate: string | null = null

  private constructor(
    private readonly o: BrokerLinkOptions,
    private kept: BrokerSettings,
  ) {}

  static async load(o: BrokerLinkOptions): Promise<BrokerLink> {
    const link = new BrokerLink(o, (await readSetting(o.db, 'broker', brokerSettingsSchema)) ?? { kind: 'own' })
    o.logins.follow(async (logins) => {
      await link.own?.putLogins(logins)
      await link.accessChanged()
    })
    o.stream.listen((_, { kind }) => {
      if (['node', 'node-gone', 'edit'].includes(kind)) void link.accessChanged().catch(() => undefined)
    })
    return link
  }

  get settings(): BrokerSettings {
    return this.kept
  }

  /** Where nodes find the broker, as their files state it. */
  get address(): BrokerAddress {
    const { root, tls, host, port } = this.o
    const outside = this.kept.kind === 'outside' ? brokerParts(this.kept.url) : null
    if (outside) return { host: outside.host, port: outside.port, root }
    if (tls) this.certificate ??= sha256Hex(new Uint8Array(new X509Certificate(fs.readFileSync(tls.certFile)).raw))
    const secure = tls && this.certificate !== null ? { port: tls.port, print: this.certificate } : null
    return { host: this.o.reachedAs() ?? host, port, root, ...(secure ? { secure } : {}) }
  }

  /** How the line stands, and clients at its other end. */
  get state(): { up: boolean; why: string | null } {
    return this.line.link
  }

  get clients(): number {
    return this.line.broker?.clients ?? 0
  }

  connectionsOf(login: string): number {
    return this.line.broker?.connectionsOf(login) ?? 0
  }

  listenerOf(login: string): Listener | null {
    return this.line.broker?.listenerOf(login) ?? null
  }

  async cutOff(login: string): Promise<void> {
    await this.line.broker?.cutOff(login)
  }

  /** Our own broker, while it is in use and its line stands. */
  private get own(): OwnBroker | null {
    return this.line.broker instanceof OwnBroker && this.line.link.up ? this.line.broker : null
  }

  /**
   * What nodes may say and hear has changed, that of this one by its files: the broker knows when this resolves, before
   * anybody speaks by it.
   */
  async accessChanged(node?: string): Promise<void> {
    if (node !== undefined) await this.o.nodeAccess.refresh(node)
    const access = this.access()
    const text = JSON.stringify(access)
    if (!this.own || text === this.toldAccess) return
    this.toldAccess = text
    await this.own.putAccess(access)
  }

  private access(): BrokerAccess {
    const { workshop, nodeAccess, logins, root } = this.o
    return Object.fromEntries([
      ...workshop.all().map(({ id }) => [id, nodeAccess.of(id)] as const),
      ...logins.guests().map(({ name, topics }) => [name, guestAccess(root, topics)] as const),
    ])
  }

  view(): BrokerView {
    const { host, port } = this.address
    return { host, port, kind: this.kept.kind, link: this.line.link }
  }

  isHere(id: string): boolean {
    return this.line.link.up && this.line.here.has(id)
  }

  /** A node has said that it is here. */
  came(id: string): void {
    this.line.here.add(id)
  }

  async publish(topic: string, payload: string | Buffer, retain: boolean): Promise<void> {
    await this.line.broker?.publish(topic, payload, { retain, qos: 1 })
  }

  /**
   * Keeps where the broker is, which takes effect at once. Passwords are sealed; undefined leaves the one that is kept,
   * empty takes it away.
   */
  async keep(settings: BrokerSettings, passwords: { outside?: string; nodes?: string } = {}): Promise<void> {
    const outsidePassword = passwords.outside
    const outside = settings.kind === 'outside' && outsidePassword !== undefined
    const moved = JSON.stringify(settings) !== JSON.stringify(this.kept) || outside
    const password =
      outsidePassword === undefined ? await this.outsidePassword().catch(() => null) : outsidePassword || null
    // The new one stands before anything says so; the old one stays otherwise.
    const next = moved ? await this.open(settings, password, JOIN_MS) : null
    await putSettings(this.o.db, {
      broker: settings,
      ...this.sealed(OUTSIDE_PASSWORD, outsidePassword),
      ...this.sealed(NODE_PASSWORD, passwords.nodes),
    })
    this.kept = settings
    if (next) {
      const { broker } = this.line
      await this.end()
      if (broker instanceof OwnBroker) await broker.endProcess()
      this.take(next)
    }
    this.tell()
    this.o.onMoved()
  }

  /**
   * At the start: without a broker the shop stands, says why, and tries again; only the demo cannot do without its own.
   */
  async start(): Promise<void> {
    try {
      this.take(await this.open(this.kept, await this.outsidePassword(), 0))
    } catch (e) {
      const own = this.kept.kind === 'own'
      if (this.o.mustStart && own) throw e
      this.line = noLine(e instanceof Error ? e.message : String(e))
      this.o.ingest.refused('', this.line.link.why ?? '')
      if (own) this.timers.push(setTimeout(() => void this.start(), BROKER_AGAIN_MS))
    }
    this.tell()
  }

  async end(): Promise<void> {
    this.timers.forEach(clearInterval)
    this.timers = []
    const { line } = this
    this.line = noLine('ended')
    await line.broker?.close()
  }

  private tell(): void {
    this.o.stream.emit({ kind: 'broker', broker: this.view() })
  }

  /** What nodes log in with at an outside broker; null where nobody has said. */
  async nodesOutside(): Promise<{ name: string; password: string } | null> {
    if (this.kept.kind !== 'outside' || this.kept.nodeLogin === '') return null
    const password = await this.opened(NODE_PASSWORD)
    return password === null ? null : { name: this.kept.nodeLogin, password }
  }

  /** How the outside broker is reached for a moment beside the line to it; null with our own. */
  async outsideLogin(): Promise<{ url: string; username?: string; password?: string } | null> {
    if (this.kept.kind !== 'outside') return null
    const password = (await this.outsidePassword()) ?? undefined
    return { url: this.kept.url, ...(this.kept.login === '' ? {} : { username: this.kept.login }), password }
  }

  private sealed(which: string, password: string | undefined): Record<string, string | null> {
    if (password === undefined) return {}
    return { [which]: password === '' ? null : this.o.sealer.seal(password, which) }
  }

  private async opened(which: string): Promise<string | null> {
    const sealed = await readSetting(this.o.db, which, z.string())
    return sealed === null ? null : this.o.sealer.open(sealed, which)
  }

  /** From now on this is the line to the broker. */
  private take(line: Line): void {
    this.line = line
    this.sayOnline()
    if (line.broker instanceof OwnBroker) {
      void line.broker.putLogins(this.o.logins.all()).catch(() => undefined)
      this.watchReturns()
    }
    this.timers.push(setInterval(() => this.tellTime(), TIME_MS))
  }

  /** Wills die with the broker: who was online and does not come back to a new one is told as gone. */
  private watchReturns(): void {
    for (const node of this.o.workshop.all()) {
      const wait = goneAfterS(node.design.network.keepAliveS) * 1000
      this.timers.push(setTimeout(() => void this.gone(node.id).catch(() => undefined), wait))
    }
  }

  private open(wanted: BrokerSettings, password: string | null, waitMs: number): Promise<Line> {
    return wanted.kind === 'outside' ? this.joinOutside(wanted, password, waitMs) : this.openOwn()
  }

  private async openOwn(): Promise<Line> {
    const { host, port, root, logins, tls, ingest, project, dataFolder, brokerEnds, db } = this.o
    const line: Line = { broker: null, link: { up: true, why: null }, here: new Set() }
    const wanted = { project, folder: brokerFolderOf(dataFolder), host, port, root, tls, ends: brokerEnds }
    this.toldAccess = JSON.stringify(this.access())
    line.broker = await OwnBroker.join({
      wanted,
      logins: () => logins.all(),
      access: () => this.access(),
      carryOver: () => allRetained(db),
      will: { topic: topicsOf(root, 'product').status, payload: '{"is":"offline"}' },
      onBroker: (id) => ingest.buffer.from(id),
      behind: () => (ingest.buffer.behind() ? ingest.buffer.calm() : null),
      onMessage: (m) => {
        // A node that has just come knows no time until it is told.
        if (m.from !== null && m.topic.endsWith('/status')) this.tellTime()
        // What could not be stored yet is kept and tried again here: the broker hears when that has been done.
        return ingest.take(m).catch(() => ingest.buffer.stored())
      },
      onRefused: (topic, what) => ingest.refused(topic, what),
      onNode: (id, here) => {
        if (here) line.here.add(id)
        else line.here.delete(id)
        this.o.onNode(id, here)
      },
      onAllRetained: () => void ingest.buffer.retainedIsAll().catch(() => undefined),
      onLost: (messages, since) =>
        ingest.refused(
          '',
          `${messages} ${messages === 1 ? 'message' : 'messages'} since ${since} could not be kept for the history: Vivid Node was away for too long`,
        ),
      onLink: (up, why) => {
        if (up) this.toldAccess = ''
        else line.here.clear()
        if (line.link.up === up && line.link.why === why) return
        line.link = { up, why }
        if (this.line !== line) return
        if (why !== null) ingest.refused('', `broker: ${why}`)
        if (up) {
          this.sayOnline()
          this.watchReturns()
        }
        this.tell()
      },
    })
    return line
  }

  /** What only works while the product runs is told to whoever wants to know. */
  private sayOnline(): void {
    const words = { is: 'online', needed: ['history', 'silence'] }
    void this.publish(topicsOf(this.o.root, 'product').status, JSON.stringify(words), true).catch(() => undefined)
  }

  private outsidePassword(): Promise<string | null> {
    return this.opened(OUTSIDE_PASSWORD)
  }

  /**
   * Without connections of our own to watch, a node is here while it says so. With `waitMs` the line must be up by
   * then.
   */
  private async joinOutside(
    { url, login }: { url: string; login: string },
    password: string | null,
    waitMs: number,
  ): Promise<Line> {
    const line: Line = { broker: null, link: { up: false, why: 'connecting' }, here: new Set() }
    let first: () => void = () => undefined
    const changed = new Promise<void>((told) => {
      first = told
    })
    line.broker = await connectOutside({
      url,
      login,
      password,
      root: this.o.root,
      onMessage: async (m) => {
        await this.o.ingest.take(m)
        if (this.seesStatus(line, m.topic) && m.from !== null) this.tellTime()
      },
      onLink: (up, why) => {
        if (line.link.up === up && line.link.why === why) return
        line.link = { up, why }
        if (up || why !== null) first()
        if (!up) line.here.clear()
        if (this.line !== line) return
        if (why !== null) this.o.ingest.refused('', `outside broker: ${why}`)
        this.tell()
      },
    })
    if (waitMs > 0) {
      await Promise.race([changed, new Promise((r) => setTimeout(r, waitMs))])
      if (!line.link.up) {
        await line.broker.close()
        throw new Error(
          `The broker at ${url} did not let us in: ${line.link.why ?? 'no answer'}. The one before stays in use; nothing was changed.`,
        )
      }
    }
    return line
  }

  /** True when this topic is the status of one of our nodes, which is then here or gone. */
  private seesStatus(line: Line, topic: string): boolean {
    const parts = splitTopic(topic)
    const node = parts?.leaf === 'status' ? this.o.workshop.bySlug(parts.node) : undefined
    if (!node) return false
    if (node.live.status?.is === 'online') line.here.add(node.id)
    else line.here.delete(node.id)
    return true
  }

  private tellTime(): void {
    void this.publish(`${this.o.root}/time`, String(Math.floor(Date.now() / 1000)), false).catch(() => undefined)
  }

  /** A node that was online when the product stopped and has not come back: its last will died with the old broker. */
  private async gone(id: string): Promise<void> {
    const node = this.o.workshop.get(id)
    if (!node || this.line.here.has(id) || node.live.status?.is !== 'online') return
    await this.publish(topicsOf(this.o.root, node.design.slug).status, '{"is":"offline"}', true)
  }
}

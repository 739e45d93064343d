import { randomUUID, X509Certificate } from 'node:crypto'
import type { Found } from '../core/publish/payload'
import { sha256Hex } from '../core/hash/sha256Hex'
import fs from 'node:fs'
import path from 'node:path'
import { z } from 'zod'
import type { Catalog, CatalogItems } from '../core/catalog/catalog'
import { designSchema, type Design } from '../core/model/design'
import { compile } from '../core/nodefile/compile'
import { canonicalJson } from '../core/hash/canonicalJson'
import type { BrokerAddress } from '../core/publish/describe'
import { DEFAULT_ROOT, splitTopic, topicsOf } from '../core/publish/topics'
import type { Scalar } from '../core/publish/payload'
import { brokerParts, type BrokerSettings, brokerSettingsSchema } from '../core/shop/brokerSettings'
import { emptyShop, type Shop, shopSchema } from '../core/shop/shop'
import { type Surroundings, surroundings } from '../core/surroundings/surroundings'
import { Backups } from './backup/backups'
import { startBroker, type Broker } from './broker/broker'
import { Logins, newPassword } from './broker/logins'
import { connectOutside } from './broker/outside'
import { placesIn } from './db/beginThread'
import { type Database, openDatabase } from './db/database'
import { allRetained } from './db/messageRows'
import { Derived } from './derived/derived'
import { nextMessage } from './db/credentialRows'
import { log } from './db/logbookRows'
import { insertRevision, revisionsOf } from './db/revisionRows'
import { putSettings, readSetting } from './db/settingRows'
import { writeForGood } from './files/flush'
import { Ingest } from './live/ingest'
import type { BrokerView, Snapshot } from '../wire/protocol'
import { LiveStream } from './live/stream'
import type { Bundle } from '../core/bundle/bundleFiles'
import { Revisions } from './nodes/revisions'
import { Workshop } from './nodes/workshop'
import { Credentials } from './secrets/credentials'
import { openSealer, type Sealer } from './secrets/sealer'
import { Shelf } from './shelf/shelf'
import { ShopDocument } from './shop/shopDocument'

export interface ProductOptions {
  project: string
  dataFolder: string
  /** Address the broker listens on. */
  host: string
  /** Name under which nodes reach it: `host` itself unless that stands for every address. */
  reachedAs?: string
  mqttPort: number
  /** Seals stored passwords in place of the key file. */
  passphrase?: string
  /** TLS listener with the user's certificate, or none. */
  tls: { port: number; certFile: string; keyFile: string } | null
  /** Passwords of the demo's logins; absent outside the demo. */
  demo: { outsidePassword: string; controllerPassword: string; standinPassword: string } | null
}

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

export type CommandOutcome = { kind: 'done'; ms: number } | { kind: 'failed'; reason: string }

const ANSWER_COMMAND_MS = 5_000
/** A search takes a second for sixteen parts, and their measurement another. */
const ANSWER_FIND_MS = 12_000
export const OUTSIDE_NAME = 'outside'
const OUTSIDE_PASSWORD = 'password of the outside broker'

const demoShop = (project: string): Shop =>
  shopSchema.parse(JSON.parse(fs.readFileSync(path.join(project, 'demo/shop.json'), 'utf8')))

/** The running product: database, broker, ingest and the live view. One per process. */
export class Product {
  readonly root = DEFAULT_ROOT
  private line: Line = noLine('not started')
  private timers: NodeJS.Timeout[] = []

  private constructor(
    readonly options: ProductOptions,
    readonly db: Database,
    readonly logins: Logins,
    readonly stream: LiveStream,
    readonly workshop: Workshop,
    readonly ingest: Ingest,
    private kept: BrokerSettings,
    readonly sealer: Sealer,
    private readonly shelf: Shelf,
    readonly derived: Derived,
    readonly shop: ShopDocument,
  ) {}

  /** Files of the nodes by number. Set once the product stands. */
  revisions!: Revisions
  credentials!: Credentials
  backups!: Backups

  static async start(options: ProductOptions): Promise<Product> {
    const db = await openDatabase(placesIn(options.project, options.dataFolder))
    try {
      return await Product.on(db, options)
    } catch (e) {
      // The folder must be free again for whoever mends it, or puts another in its place.
      await db.close()
      throw e
    }
  }

  private static async on(db: Database, options: ProductOptions): Promise<Product> {
    const logins = await Logins.load(db)
    const stream = new LiveStream()
    const shelf = await Shelf.load(db)
    const derived = new Derived(path.join(options.project, 'build', 'derive-thread.mjs'), () => shelf.items)
    const workshop = await Workshop.load(db, shelf, stream, derived)
    let product: Product | null = null
    const ingest = new Ingest({
      db,
      shelf,
      root: DEFAULT_ROOT,
      workshop,
      stream,
      clients: () => product?.line.broker?.clients ?? 0,
      onOnline: (id) => product?.online(id),
      onLateAnswer: (node, done) => product?.credentials.late(node, done.id, done.result, done.reason),
    })
    const first = options.demo ? demoShop(options.project) : emptyShop(randomUUID())
    const shop = await ShopDocument.load(db, stream, first, () => product?.tellCarriers())
    const settings = (await readSetting(db, 'broker', brokerSettingsSchema)) ?? { kind: 'own' }
    product = new Product(
      options,
      db,
      logins,
      stream,
      workshop,
      ingest,
      settings,
      openSealer(options.dataFolder, options.passphrase),
      shelf,
      derived,
      shop,
    )
    await product.equip()
    if (options.demo) await product.prepareDemo(options.demo)
    await product.startBroker()
    return product
  }

  private async equip(): Promise<void> {
    const { db, workshop, ingest, root } = this
    const shared = {
      db,
      workshop,
      derived: this.derived,
      ingest,
      root,
      publish: (topic: string, payload: string) => this.publish(topic, payload, false),
      isHere: (id: string) => this.isHere(id),
    }
    workshop.networks = () => Object.keys(this.shop.document.networks)
    this.backups = new Backups(db, this.options.dataFolder)
    this.revisions = await Revisions.load({
      ...shared,
      broker: () => this.brokerAddress,
      around: (design) => this.around(design),
      moved: (id) => this.clearFormerTopics(id),
    })
    this.credentials = await Credentials.load({
      ...shared,
      sealer: this.sealer,
      logins: this.logins,
      shop: () => this.shop.document,
      outside: () => this.kept.kind === 'outside',
      changed: () => this.tellCarriers(),
    })
  }

  /** A node says that it is here: what has waited for it goes out. */
  private online(id: string): void {
    this.line.here.add(id)
    this.revisions.online(id)
    void this.credentials.carry(id)
  }

  /** Where nodes find the broker, as their files state it. */
  /** SHA-256 of the broker's certificate, once it has been read. */
  private certificate: string | null = null

  get brokerAddress(): BrokerAddress {
    const outside = this.kept.kind === 'outside' ? brokerParts(this.kept.url) : null
    if (outside) return { host: outside.host, port: outside.port, root: this.root }
    const { tls, reachedAs, host, mqttPort: port } = this.options
    if (tls) this.certificate ??= sha256Hex(new Uint8Array(new X509Certificate(fs.readFileSync(tls.certFile)).raw))
    const secure = tls && this.certificate !== null ? { port: tls.port, print: this.certificate } : null
    return { host: reachedAs ?? host, port, root: this.root, ...(secure ? { secure } : {}) }
  }

  /** Where the broker is, and how the line to it stands. */
  get brokerLink(): { where: string; up: boolean; why: string | null } {
    const { host, port } = this.brokerAddress
    return { where: `${host}:${port}`, ...this.line.link }
  }

  get catalog(): Catalog {
    return this.shelf.catalog
  }

  /** Puts catalogue items on the shelf, all or none; the reason when one may not be. */
  async bringIn(items: CatalogItems): Promise<string | null> {
    const clash = await this.shelf.add(items)
    if (clash === null) this.stream.emit({ kind: 'shelf', items: this.shelf.items })
    return clash
  }

  /** A design from elsewhere with all it brings along, or nothing of it and the reason. */
  async importDesign(design: Design, author: string, place: string | null): Promise<string | null> {
    const here = place === null || (design.place ?? '') in this.shop.document.places
    const named = here ? design : { ...design, place: await this.shop.placeNamed(place, author) }
    const clash = await this.workshop.add(named, author)
    if (clash === null && design.items.boards.length + design.items.parts.length > 0)
      this.stream.emit({ kind: 'shelf', items: this.shelf.items })
    return clash
  }

  get brokerSettings(): BrokerSettings {
    return this.kept
  }

  /**
   * Keeps where the broker is, which takes effect at once. `outsidePassword` is sealed; undefined leaves the one
   * that is kept.
   */
  async keepBroker(settings: BrokerSettings, outsidePassword?: string): Promise<void> {
    const moved = JSON.stringify(settings) !== JSON.stringify(this.kept) || outsidePassword !== undefined
    const password =
      outsidePassword === undefined ? await this.outsidePassword().catch(() => null) : outsidePassword || null
    // The new one stands before anything says so; the old one stays otherwise.
    const next = moved ? await this.openLine(settings, password, JOIN_MS) : null
    await putSettings(this.db, {
      broker: settings,
      ...(outsidePassword === undefined
        ? {}
        : { [OUTSIDE_PASSWORD]: outsidePassword === '' ? null : this.sealer.seal(outsidePassword, OUTSIDE_PASSWORD) }),
    })
    this.kept = settings
    if (next) {
      await this.endBroker()
      this.take(next)
    }
    this.stream.emit({ kind: 'broker', broker: this.brokerView() })
    this.tellCarriers()
  }

  private brokerView(): BrokerView {
    const { host, port } = this.brokerAddress
    return { host, port, kind: this.kept.kind, link: this.line.link }
  }

  private tellCarriers(): void {
    this.stream.emit({ kind: 'carriers', carriers: this.credentials.states() })
  }

  /** What the file of a node takes from the shop. */
  around(design: Design): Surroundings {
    return surroundings(design, this.shop.document)
  }

  snapshot(): Snapshot {
    return {
      nodes: this.workshop.all(),
      entities: this.ingest.standins.entities,
      tapes: this.ingest.standins.tapes,
      boards: this.ingest.standins.boards,
      counts: this.ingest.counts,
      troubles: this.ingest.troubles,
      demo: this.options.demo !== null,
      shop: { document: this.shop.document, seq: this.shop.seq },
      broker: this.brokerView(),
      carriers: this.credentials.states(),
      items: this.shelf.items,
    }
  }

  /** Sends a command to a signal and waits for its answer. */
  async command(id: string, signalId: string, value: Scalar): Promise<CommandOutcome> {
    const node = this.workshop.get(id)
    const signal = node?.design.signals[signalId]
    if (!node || !signal) return { kind: 'failed', reason: 'this signal is not in the design' }
    if (!this.isHere(id)) return { kind: 'failed', reason: `${node.design.name} is not connected` }
    const command = randomUUID()
    const began = performance.now()
    const answer = this.ingest.answers.to(command, ANSWER_COMMAND_MS)
    await this.publish(
      topicsOf(this.root, node.design.slug).set(signal.slug),
      JSON.stringify({ value, id: command }),
      false,
    )
    const done = await answer
    if (!done)
      return { kind: 'failed', reason: `${node.design.name} did not answer within ${ANSWER_COMMAND_MS / 1000} s` }
    return done.result === 'done'
      ? { kind: 'done', ms: Math.round(performance.now() - began) }
      : { kind: 'failed', reason: done.reason ?? 'refused' }
  }

  /** Has a node search its one-wire lines: the addresses there, each with how warm it is. */
  async find(id: string): Promise<{ found: Found[] } | { reason: string }> {
    const node = this.workshop.get(id)
    if (!node) return { reason: 'there is no such node' }
    if (!this.isHere(id)) return { reason: `${node.design.name} is not connected` }
    const asked = randomUUID()
    const answer = this.ingest.answers.to(asked, ANSWER_FIND_MS)
    await this.publish(topicsOf(this.root, node.design.slug).set('find'), JSON.stringify({ id: asked }), false)
    const done = await answer
    if (done?.found) return { found: done.found }
    const silent = `${node.design.name} did not answer within ${ANSWER_FIND_MS / 1000} s`
    return { reason: done?.reason ?? `${silent}: is the file with these thermometers the one it runs?` }
  }

  /**
   * Everything to put this node onto its board by cable. With passwords it gets a new login, key and file number; a
   * simulated board keeps what it has.
   */
  async installBundle(
    id: string,
    passwords: boolean,
  ): Promise<{ ok: true; name: string; zip: Uint8Array } | { ok: false; reason: string }> {
    const design = this.workshop.get(id)?.design
    const board = design && this.catalog.boards[design.board.id]
    if (!design || !board) return { ok: false, reason: 'there is no such node' }
    const before = (await revisionsOf(this.db, id))[0]?.revision ?? 0
    const result = await this.derived.work('compile', design, this.around(design), this.brokerAddress, before + 1)
    if (!result.ok) return { ok: false, reason: `The file cannot be written yet: ${result.reasons.join('; ')}.` }
    // Loaded for those who ask for it: a start does without.
    const [{ bundleFiles }, { readRuntime, unreachable, zipOf }] = await Promise.all([
      import('../core/bundle/bundleFiles'),
      import('./nodes/installBundle'),
    ])
    const named = (bundle: Bundle) => ({ name: bundle.name, zip: zipOf(bundle) })
    const far = unreachable(this.brokerAddress.host)
    if (far)
      return {
        ok: false,
        reason: `${far} Start the product with VIVID_HOST=0.0.0.0, VIVID_SHOP_PASSWORD and VIVID_NAMES set to the address boards reach it by, or choose a broker elsewhere in the settings.`,
      }
    const runtime = readRuntime(this.options.project, board.interpreter.chip)
    if (!passwords)
      return { ok: true, ...named(bundleFiles(design, this.catalog, board, result.compiled, runtime, null)) }
    if (this.kept.kind === 'outside')
      return {
        ok: false,
        reason:
          'Logins of nodes belong to the outside broker and are not known here: take the bundle without passwords and write them into board/secret.json.',
      }
    const { ref } = design.network
    const way = this.credentials.wayIn(ref)
    if (!way)
      return {
        ok: false,
        reason: `No password is kept for network “${ref}”: enter it in the settings, or take the bundle without passwords.`,
      }
    if (fs.existsSync(path.join(this.options.dataFolder, 'standins', id)))
      return {
        ok: false,
        reason: 'This node runs on a simulated board, which keeps its login. A bundle without passwords can be had.',
      }
    await insertRevision(this.db, design, this.around(design), result.compiled)
    const [name, password] = [`node-${design.slug}`, newPassword()]
    await this.logins.set(name, 'node', id, password)
    const secret = {
      broker: { name, password },
      networks: { [ref]: [way] },
      key: await this.credentials.keyFor(id),
      n: await nextMessage(this.db, id),
    }
    await this.credentials.written(id, ref)
    await log(this.db, id, 'Vivid Node', `install bundle of revision ${before + 1} written, with passwords`)
    return { ok: true, ...named(bundleFiles(design, this.catalog, board, result.compiled, runtime, secret)) }
  }

  /** A wish to the stand-ins: only in the demo. */
  async standin(topic: 'controller' | string, body: unknown): Promise<boolean> {
    if (!this.options.demo) return false
    await this.publish(`standin/${topic}/do`, JSON.stringify(body), false)
    return true
  }

  async stop(): Promise<void> {
    this.stream.end()
    await this.endBroker()
    this.derived.stop()
    await this.ingest.stop()
    await this.db.close()
  }

  private async endBroker(): Promise<void> {
    this.timers.forEach(clearInterval)
    this.timers = []
    const { line } = this
    this.line = noLine('ended')
    await line.broker?.close()
  }

  /**
   * At the start: without a broker the shop stands, says why, and tries again; only the demo cannot do without its own.
   */
  private async startBroker(): Promise<void> {
    try {
      this.take(await this.openLine(this.kept, await this.outsidePassword(), 0))
    } catch (e) {
      const own = this.kept.kind === 'own'
      if (this.options.demo && own) throw e
      this.line = noLine(e instanceof Error ? e.message : String(e))
      this.ingest.refused('', this.line.link.why ?? '')
      if (own) this.timers.push(setTimeout(() => void this.startBroker(), BROKER_AGAIN_MS))
    }
    this.stream.emit({ kind: 'broker', broker: this.brokerView() })
  }

  /** From now on this is the line to the broker. */
  private take(line: Line): void {
    this.line = line
    if (this.kept.kind === 'own')
      for (const node of this.workshop.all()) {
        const wait = node.design.network.keepAliveS * 1500
        this.timers.push(setTimeout(() => void this.gone(node.id), wait))
      }
    this.timers.push(setInterval(() => this.tellTime(), 60_000))
  }

  private openLine(wanted: BrokerSettings, password: string | null, waitMs: number): Promise<Line> {
    return wanted.kind === 'outside' ? this.joinOutside(wanted, password, waitMs) : this.openOwn()
  }

  private async openOwn(): Promise<Line> {
    const { host, mqttPort: port } = this.options
    const retained = await allRetained(this.db)
    const line: Line = { broker: null, link: { up: true, why: null }, here: new Set() }
    line.broker = await startBroker({
      host,
      port,
      root: this.root,
      logins: this.logins,
      retained,
      slugsOf: (id) => this.workshop.slugsOf(id),
      tls: this.options.tls,
      behind: () => this.ingest.buffer.behind(),
      onMessage: (m) => {
        // A node that has just come knows no time until it is told.
        if (m.from !== null && m.topic.endsWith('/status')) this.tellTime()
        return this.ingest.take(m)
      },
      onRefused: (topic, what) => this.ingest.refused(topic, what),
      onNode: (id, here) => {
        if (here) line.here.add(id)
        else line.here.delete(id)
        this.revisions.connection(id, here)
      },
    })
    // What the database gave back is what was last known: the live view starts from it.
    for (const { topic, payload, qos } of retained)
      void this.ingest
        .take({ topic, payload: Buffer.from(payload), qos, retain: true, from: null })
        .catch(() => undefined)
    return line
  }

  private async outsidePassword(): Promise<string | null> {
    const sealed = await readSetting(this.db, OUTSIDE_PASSWORD, z.string())
    return sealed === null ? null : this.sealer.open(sealed, OUTSIDE_PASSWORD)
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
      root: this.root,
      onMessage: async (m) => {
        await this.ingest.take(m)
        const parts = splitTopic(m.topic)
        const node = parts?.leaf === 'status' ? this.workshop.bySlug(parts.node) : undefined
        if (node) {
          if (node.live.status?.is === 'online') line.here.add(node.id)
          else line.here.delete(node.id)
          if (m.from !== null) this.tellTime()
        }
      },
      onLink: (up, why) => {
        if (line.link.up === up && line.link.why === why) return
        line.link = { up, why }
        if (up || why !== null) first()
        if (!up) line.here.clear()
        if (this.line !== line) return
        if (why !== null) this.ingest.refused('', `outside broker: ${why}`)
        this.stream.emit({ kind: 'broker', broker: this.brokerView() })
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

  private tellTime(): void {
    void this.publish(`${this.root}/time`, String(Math.floor(Date.now() / 1000)), false).catch(() => undefined)
  }

  /** A node that was online when the product stopped and has not come back: its last will died with the old broker. */
  private async gone(id: string): Promise<void> {
    const node = this.workshop.get(id)
    if (!node || this.line.here.has(id) || node.live.status?.is !== 'online') return
    await this.publish(topicsOf(this.root, node.design.slug).status, '{"is":"offline"}', true)
  }

  isHere(id: string): boolean {
    return this.line.link.up && this.line.here.has(id)
  }

  private clearFormerTopics(id: string): void {
    const design = this.workshop.get(id)?.design
    const signals = Object.values(design?.signals ?? {}).map((s) => s.slug)
    for (const slug of this.workshop.movedFrom(id)) {
      const { base } = topicsOf(this.root, slug)
      const known = ['status', 'health', 'td', 'config', ...signals].map((leaf) => `${base}/${leaf}`)
      for (const topic of new Set([...known, ...this.ingest.buffer.retainedTopics(`${base}/`)]))
        void this.publish(topic, '', true)
    }
  }

  private async publish(topic: string, payload: string, retain: boolean): Promise<void> {
    await this.line.broker?.publish(topic, payload, { retain, qos: 1 })
  }

  private async prepareDemo(demo: NonNullable<ProductOptions['demo']>): Promise<void> {
    await this.logins.set(OUTSIDE_NAME, 'reader', null, demo.outsidePassword)
    await this.logins.set('controller', 'controller', null, demo.controllerPassword)
    await this.logins.set('standin', 'standin', null, demo.standinPassword)
    const folder = path.join(this.options.project, 'demo/designs')
    const first = this.workshop.all().length === 0
    fs.mkdirSync(path.join(this.options.dataFolder, 'standins'), { recursive: true, mode: 0o700 })
    await this.openAir()
    for (const name of fs.readdirSync(folder).sort()) {
      const design = designSchema.parse(JSON.parse(fs.readFileSync(path.join(folder, name), 'utf8')))
      // What the user has removed stays removed.
      if (first) await this.workshop.add(design, 'demo')
      if (!this.workshop.get(design.id)) continue
      await this.writeBundle(design)
    }
  }

  /** The demo's access point: what is kept of its networks is what it lets in, until somebody changes it there. */
  private async openAir(): Promise<void> {
    for (const ref of Object.keys(this.shop.document.networks))
      if (!this.credentials.wayIn(ref)) await this.credentials.change(ref, newPassword())
    const file = path.join(this.options.dataFolder, 'standins/air.json')
    if (!fs.existsSync(file))
      this.setAir(
        Object.fromEntries(
          Object.keys(this.shop.document.networks).flatMap((ref) => {
            const way = this.credentials.wayIn(ref)
            return way ? [[way.name, way.password]] : []
          }),
        ),
      )
  }

  /** Demo only: what the access point lets in from now on, network names and their passwords. */
  setAir(air: Record<string, string>): void {
    const file = path.join(this.options.dataFolder, 'standins/air.json')
    writeForGood(file, JSON.stringify(air))
  }

  /**
   * The simulated board's flash: made once, kept from then on; only the broker's address follows the ports of this
   * start.
   */
  private async writeBundle(design: Design): Promise<void> {
    const folder = path.join(this.options.dataFolder, 'standins', design.id)
    const nodeFile = path.join(folder, 'node.json')
    const login = `node-${design.slug}`
    if (
      fs.existsSync(nodeFile) &&
      this.logins.has(login) &&
      fs.readFileSync(path.join(folder, 'secret.json'), 'utf8').includes(await this.credentials.keyFor(design.id)) &&
      fs.readFileSync(nodeFile, 'utf8').includes(`"port":${this.brokerAddress.port}`)
    )
      return
    const revision = ((await revisionsOf(this.db, design.id))[0]?.revision ?? 0) + 1
    const here = this.workshop.get(design.id)?.design ?? design
    const result = compile(here, this.around(here), this.catalog, this.brokerAddress, revision)
    if (!result.ok) return
    await insertRevision(this.db, here, this.around(here), result.compiled)
    const password = newPassword()
    await this.logins.set(login, 'node', design.id, password)
    fs.mkdirSync(folder, { recursive: true, mode: 0o700 })
    const { ref } = design.network
    const secret = {
      broker: { name: login, password },
      networks: { [ref]: [this.credentials.wayIn(ref)] },
      key: await this.credentials.keyFor(design.id),
      n: 0,
    }
    await this.credentials.written(design.id, ref)
    for (const left of ['node.new', 'td.new', 'trial', 'keep', 'secret.try'])
      fs.rmSync(path.join(folder, left), { force: true })
    writeForGood(path.join(folder, 'secret.json'), JSON.stringify(secret))
    writeForGood(path.join(folder, 'td.json'), canonicalJson(result.compiled.td))
    writeForGood(nodeFile, result.compiled.text)
  }
}

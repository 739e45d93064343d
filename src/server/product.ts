import { randomUUID } from 'node:crypto'
import path from 'node:path'
import type { Catalog, CatalogItems } from '../core/catalog/catalog'
import type { Design } from '../core/model/design'
import { canonicalJson } from '../core/hash/canonicalJson'
import type { BrokerAddress } from '../core/publish/describe'
import { describeSender } from '../core/publish/describeSender'
import type { Shop } from '../core/shop/shop'
import { hearsAir } from '../core/publish/hearsAir'
import { entitySheet } from '../core/publish/entitySheet'
import { DEFAULT_ROOT, topicsOf } from '../core/publish/topics'
import { emptyShop } from '../core/shop/shop'
import { type Surroundings, surroundings } from '../core/surroundings/surroundings'
import { Backups } from './backup/backups'
import { BrokerLink } from './broker/brokerLink'
import { Logins } from './broker/logins'
import { Controllers } from './controllers/controllers'
import { placesIn } from './db/beginThread'
import { type Database, openDatabase } from './db/database'
import { Derived } from './derived/derived'
import type { Guest, GuestPlan } from './guest'
import { Ingest } from './live/ingest'
import type { Snapshot } from '../wire/protocol'
import { LiveStream } from './live/stream'
import { Bundles } from './nodes/bundles'
import { Air } from './air/air'
import { Announcing } from './announcing/announcing'
import { BringUp } from './bringup/bringUp'
import { Proofs } from './proof/proofs'
import { CloseListening } from './live/closeListening'
import { Commands } from './nodes/commands'
import { Gate } from './nodes/gate'
import { Lifecycle } from './nodes/lifecycle'
import { NodeAccess } from './nodes/nodeAccess'
import { Sending } from './nodes/sending'
import { Revisions } from './nodes/revisions'
import { Workshop } from './nodes/workshop'
import { Credentials } from './secrets/credentials'
import { openSealer } from './secrets/sealer'
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
  /** The embedded broker's process ends with this one; otherwise it stays for the nodes. */
  brokerEnds: boolean
  /** Lives beside the product in this process; null outside the demo. */
  guest: GuestPlan | null
}

/** What the product is made of. */
interface Parts {
  db: Database
  stream: LiveStream
  logins: Logins
  shelf: Shelf
  derived: Derived
  workshop: Workshop
  ingest: Ingest
  shop: ShopDocument
  link: BrokerLink
  revisions: Revisions
  credentials: Credentials
  commands: Commands
  listening: CloseListening
  bringUp: BringUp
  proofs: Proofs
  announcing: Announcing
  air: Air
  sending: Sending
  bundles: Bundles
  gate: Gate
  lifecycle: Lifecycle
  controllers: Controllers
  backups: Backups
}

/** The running product: its parts put together, and nothing else. One per process. */
export class Product {
  readonly root = DEFAULT_ROOT
  readonly guest: Guest | null

  private constructor(
    readonly options: ProductOptions,
    private readonly parts: Parts,
  ) {
    this.guest = options.guest?.join(this) ?? null
  }

  static async start(options: ProductOptions): Promise<Product> {
    const db = await openDatabase(placesIn(options.project, options.dataFolder))
    try {
      let product: Product | null = null
      product = new Product(options, await assemble(options, db, () => product))
      await product.guest?.prepare()
      await product.link.start()
      return product
    } catch (e) {
      // The folder must be free again for whoever mends it, or puts another in its place.
      await db.close()
      throw e
    }
  }

  get db(): Database {
    return this.parts.db
  }

  get stream(): LiveStream {
    return this.parts.stream
  }

  get logins(): Logins {
    return this.parts.logins
  }

  get derived(): Derived {
    return this.parts.derived
  }

  get workshop(): Workshop {
    return this.parts.workshop
  }

  get ingest(): Ingest {
    return this.parts.ingest
  }

  get shop(): ShopDocument {
    return this.parts.shop
  }

  get link(): BrokerLink {
    return this.parts.link
  }

  get revisions(): Revisions {
    return this.parts.revisions
  }

  get credentials(): Credentials {
    return this.parts.credentials
  }

  get sending(): Sending {
    return this.parts.sending
  }

  get bringUp(): BringUp {
    return this.parts.bringUp
  }

  get announcing(): Announcing {
    return this.parts.announcing
  }

  get air(): Air {
    return this.parts.air
  }

  get proofs(): Proofs {
    return this.parts.proofs
  }

  get listening(): CloseListening {
    return this.parts.listening
  }
  get commands(): Commands {
    return this.parts.commands
  }

  get bundles(): Bundles {
    return this.parts.bundles
  }

  get gate(): Gate {
    return this.parts.gate
  }

  get lifecycle(): Lifecycle {
    return this.parts.lifecycle
  }

  get controllers(): Controllers {
    return this.parts.controllers
  }

  get backups(): Backups {
    return this.parts.backups
  }

  get catalog(): Catalog {
    return this.parts.shelf.catalog
  }

  /** Puts catalogue items on the shelf, all or none; the reason when one may not be. */
  async bringIn(items: CatalogItems): Promise<string | null> {
    const clash = await this.parts.shelf.add(items)
    if (clash === null) this.tellShelf()
    return clash
  }

  /** A design from elsewhere with all it brings along, or nothing of it and the reason. */
  async importDesign(design: Design, author: string, place: string | null): Promise<string | null> {
    const here = place === null || (design.place ?? '') in this.shop.document.places
    const named = here ? design : { ...design, place: await this.shop.placeNamed(place, author) }
    const clash = await this.workshop.add(named, author)
    if (clash === null && design.items.boards.length + design.items.parts.length > 0) this.tellShelf()
    return clash
  }

  tellCarriers(): void {
    this.stream.emit({ kind: 'carriers', carriers: this.credentials.states() })
  }

  /** What the file of a node takes from the shop. */
  around(design: Design): Surroundings {
    return surroundings(design, this.shop.document, neighbours(this.workshop))
  }

  snapshot(): Snapshot {
    return {
      nodes: this.workshop.all(),
      entities: this.guest?.entities ?? [],
      told: this.guest?.told ?? null,
      tapes: this.guest?.tapes ?? {},
      boards: this.guest?.boards ?? {},
      counts: this.ingest.counts,
      troubles: this.ingest.troubles,
      demo: this.guest !== null,
      shop: { document: this.shop.document, seq: this.shop.seq },
      broker: this.link.view(),
      carriers: this.credentials.states(),
      items: this.parts.shelf.items,
      senders: this.air.states(),
    }
  }

  async stop(): Promise<void> {
    this.stream.end()
    // What has been taken is stored, and said to be, before the line goes.
    await this.ingest.buffer.flush().catch(() => undefined)
    this.listening.stop()
    await this.bringUp.stop()
    this.proofs.stop()
    this.air.stop()
    this.announcing.stop()
    await this.announcing.settled()
    await this.link.end()
    this.derived.stop()
    await this.ingest.stop()
    await this.db.close()
  }

  /** A node says that it is here: what has waited for it goes out. */
  online(id: string): void {
    this.link.came(id)
    this.revisions.online(id)
    this.listening.online(id)
    void this.credentials.carry(id).catch(() => undefined)
  }

  private tellShelf(): void {
    this.stream.emit({ kind: 'shelf', items: this.parts.shelf.items })
  }
}

/** Opens and joins the parts; `product` is there once all of them are. */
async function assemble(options: ProductOptions, db: Database, product: () => Product | null): Promise<Parts> {
  const root = DEFAULT_ROOT
  const stream = new LiveStream()
  const logins = await Logins.load(db)
  const shelf = await Shelf.load(db)
  const derived = new Derived(path.join(options.project, 'build', 'derive-thread.mjs'), () => shelf.items)
  const workshop = await Workshop.load(db, shelf, stream, derived)
  const ingest = new Ingest({
    db,
    shelf,
    root,
    workshop,
    stream,
    clients: () => product()?.link.clients ?? 0,
    ofStandIns: (message) => product()?.guest?.take(message),
    onOnline: (id) => product()?.online(id),
    onRuns: (id) =>
      void product()
        ?.link.accessChanged(id)
        .catch(() => undefined),
    onClose: (id, heard) =>
      void product()
        ?.listening.heard(id, heard)
        .catch(() => undefined),
    onLateAnswer: (node, done) => product()?.credentials.late(node, done.id, done.result, done.reason),
    families: () => Object.values(product()?.shop.document.families ?? {}),
    onFrame: (gateway, json, atMs) => product()?.air.frame(gateway, json, atMs),
    ofSender: (...said) => product()?.air.take(...said) ?? null,
  })
  const changed = () => product()?.tellCarriers()
  const shop = await ShopDocument.load(db, stream, options.guest?.firstShop ?? emptyShop(randomUUID()), changed)
  workshop.otherSlugs = () => Object.values(shop.document.senders).map((s) => s.slug)
  shop.otherSlugs = () => workshop.all().map(({ design }) => design.slug)
  workshop.networks = () => Object.keys(shop.document.networks)
  const sealer = openSealer(options.dataFolder, options.passphrase)
  const nodeAccess = await NodeAccess.load({ db, root, workshop, shelf })
  const link = await BrokerLink.load({
    nodeAccess,
    db,
    root,
    logins,
    stream,
    workshop,
    ingest,
    sealer,
    host: options.host,
    port: options.mqttPort,
    project: options.project,
    dataFolder: options.dataFolder,
    brokerEnds: options.brokerEnds,
    reachedAs: () => options.reachedAs,
    tls: options.tls,
    mustStart: options.guest !== null,
    onNode: (id, here) => product()?.revisions.connection(id, here),
    onMoved: changed,
  })
  const shared = {
    db,
    root,
    workshop,
    derived,
    ingest,
    publish: (topic: string, payload: string | Buffer) => link.publish(topic, payload, false),
    isHere: (id: string) => link.isHere(id),
    outside: () => link.settings.kind === 'outside',
    nodesOutside: () => link.nodesOutside(),
    broker: () => link.address,
    around: (design: Design) => surroundings(design, shop.document, neighbours(workshop)),
    filesChanged: (id: string) => link.accessChanged(id).catch(() => undefined),
  }
  const revisions = await Revisions.load({
    ...shared,
    moved: (id, former) => clearFormerTopics({ root, workshop, ingest, link }, id, former),
  })
  const gate = new Gate({ ...shared, catalog: () => shelf.catalog })
  const credentials = await Credentials.load({ ...shared, sealer, logins, shop: () => shop.document, changed })
  return {
    db,
    stream,
    logins,
    shelf,
    derived,
    workshop,
    ingest,
    shop,
    link,
    revisions,
    sending: new Sending({ ...shared, revisions, gate, catalog: () => shelf.catalog }),
    credentials,
    commands: new Commands({ ...shared, answers: ingest.answers }),
    listening: new CloseListening({ ...shared, stream, answers: ingest.answers }),
    bringUp: await BringUp.load({ ...shared, stream, catalog: () => shelf.catalog }),
    air: await Air.load({
      ...shared,
      stream,
      answers: ingest.answers,
      shop: () => shop.document,
      gateways: () =>
        workshop
          .all()
          .filter(({ design }) => hearsAir(design, shelf.catalog))
          .map(({ id, design: { name, slug } }) => ({ id, name, slug })),
      retainedBelow: (topic) => ingest.buffer.retainedTopics(topic),
      clear: (topic) => link.publish(topic, '', true),
      trouble: (topic, what) => ingest.odd(topic, what),
    }),
    announcing: new Announcing({
      ...shared,
      stream,
      catalog: () => shelf.catalog,
      shop: () => shop.document,
      nodes: () =>
        workshop
          .all()
          .filter(({ live }) => live.running !== null)
          .map(({ id, design }) => ({ id, design, place: surroundings(design, shop.document).place })),
      senders: () => senderDescriptions(shop.document, workshop, link.address),
      isUp: () => link.state.up,
      publish: (topic, payload) => link.publish(topic, payload, true),
      trouble: (topic, what) => ingest.odd(topic, what),
    }),
    proofs: await Proofs.load({
      ...shared,
      stream,
      logins,
      outside: () => link.outsideLogin(),
      ownUrl: () => `mqtt://127.0.0.1:${options.mqttPort}`,
      cutOff: (login) => link.cutOff(login),
      clear: (topic) => link.publish(topic, '', true),
      barred: (id) => gate.barred(id),
      byItself: async (id, deed) => {
        const guest = product()?.guest
        if (!guest?.holdsBoard(id)) return false
        await guest.ask(id, STANDIN_DEEDS[deed])
        return true
      },
    }),
    bundles: new Bundles({
      ...shared,
      project: options.project,
      logins,
      credentials,
      catalog: () => shelf.catalog,
      cutOff: (login) => link.cutOff(login),
      simulated: (id) => product()?.guest?.holdsBoard(id) ?? false,
    }),
    gate,
    lifecycle: new Lifecycle({
      ...shared,
      logins,
      retainedBelow: (topic) => ingest.buffer.retainedTopics(topic),
      clear: (topic) => link.publish(topic, '', true),
      cutOff: (login) => link.cutOff(login),
    }),
    controllers: new Controllers({
      ...shared,
      outsideLogin: () => link.outsideLogin(),
      logins,
      nodes: () => workshop.all().map(({ id, design: { name, slug } }) => ({ id, name, slug })),
      nodeAccess: (id) => nodeAccess.of(id),
      connectionsOf: (login) => link.connectionsOf(login),
      listenerOf: (login) => link.listenerOf(login),
      announced: () => product()?.announcing.filters() ?? [],
      offered: () =>
        entitySheet(
          workshop.all().map(({ id, design }) => ({ id, design, place: null })),
          shelf.catalog,
          root,
        ).flatMap((r) => (r.offered ? [r.topic] : [])),
      cutOff: (login) => link.cutOff(login),
    }),
    backups: new Backups(db, options.dataFolder),
  }
}

/** What is announced of each sender, retained. */
function senderDescriptions(shop: Shop, workshop: Workshop, broker: BrokerAddress) {
  return Object.entries(shop.senders).flatMap(([id, sender]) => {
    const receivers = sender.receivers.flatMap((node) => workshop.get(node)?.design.slug ?? [])
    // Whom nobody hears nobody can promise anything of.
    if (receivers.length === 0) return []
    const td = describeSender(id, sender, shop, receivers, broker)
    const { td: topic } = topicsOf(broker.root, sender.slug)
    return [{ topic, payload: canonicalJson(td), node_id: shop.id, template_id: 'sender' }]
  })
}

const neighbours = (workshop: Workshop) => workshop.all().map(({ id, design }) => ({ id, slug: design.slug }))

/** What a simulated board does for a contract test. A part is off for so long, s. */
const STANDIN_DEEDS = {
  cut: { cut: true },
  restore: { cut: false },
  restart: { power: 'off and on' },
  unplug: { fault: 'unplugged', for: 30 },
}

/** A node has moved to another name, or its signals have: what the broker keeps under the former ones goes. */
function clearFormerTopics(
  { root, workshop, ingest, link }: { root: string; workshop: Workshop; ingest: Ingest; link: BrokerLink },
  id: string,
  former: readonly string[],
): void {
  const here = topicsOf(root, workshop.get(id)?.design.slug ?? '')
  const clear = (topic: string) => void link.publish(topic, '', true).catch(() => undefined)
  for (const slug of former) clear(here.signal(slug))
  const signals = Object.values(workshop.get(id)?.design.signals ?? {}).map((s) => s.slug)
  for (const slug of workshop.movedFrom(id)) {
    const { base } = topicsOf(root, slug)
    const known = ['status', 'health', 'td', 'config', ...signals].map((leaf) => `${base}/${leaf}`)
    for (const topic of new Set([...known, ...ingest.buffer.retainedTopics(`${base}/`)])) clear(topic)
  }
  void link.accessChanged(id).catch(() => undefined)
}

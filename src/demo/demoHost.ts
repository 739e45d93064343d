import fs from 'node:fs'
import path from 'node:path'
import { canonicalJson } from '../core/hash/canonicalJson'
import { designSchema, type Design } from '../core/model/design'
import { cycleOf } from '../core/energy/cycle'
import { supplySignals } from '../core/energy/supplySignals'
import { compile } from '../core/nodefile/compile'
import { shopSchema } from '../core/shop/shop'
import { newPassword } from '../server/broker/logins'
import type { Message } from '../server/live/message'
import { insertRevision, revisionsOf } from '../server/db/revisionRows'
import { writeForGood } from '../server/files/flush'
import type { Guest, GuestPlan } from '../server/guest'
import type { Product } from '../server/product'
import { CABLE_FOLDER, type CableState } from '../wire/deeds'
import { cableIn } from '../server/files/cableState'
import { putSupplyPast } from './supplyPast'
import { StandInMessages } from './standinMessages'

/** Passwords of the demo's own logins. */
export interface DemoPasswords {
  outsidePassword: string
  controllerPassword: string
  standinPassword: string
}

const OUTSIDE_NAME = 'outside'
/** Left on a simulated board by what was tried there before. */
const LEFT_BEHIND = ['node.new', 'td.new', 'trial', 'keep', 'secret.try']

/**
 * The demo's workshop: its designs, the flash of its simulated boards, its access point, and what they all say. `only`
 * keeps it to some of its nodes, by the names of their design files.
 */
export function demo(
  project: string,
  dataFolder: string,
  passwords: DemoPasswords,
  only: readonly string[] | null = null,
): GuestPlan {
  const firstShop = shopSchema.parse(JSON.parse(fs.readFileSync(path.join(project, 'demo/shop.json'), 'utf8')))
  return { firstShop, join: (product) => new DemoHost(product, project, dataFolder, passwords, only) }
}

class DemoHost implements Guest {
  private readonly messages: StandInMessages
  private readonly standins: string

  constructor(
    private readonly product: Product,
    private readonly project: string,
    dataFolder: string,
    private readonly passwords: DemoPasswords,
    private readonly only: readonly string[] | null,
  ) {
    this.standins = path.join(dataFolder, 'standins')
    this.messages = new StandInMessages({
      workshop: product.workshop,
      stream: product.stream,
      odd: (topic, what) => product.ingest.odd(topic, what),
    })
  }

  get entities() {
    return this.messages.entities
  }

  get told() {
    return this.messages.told
  }

  get tapes() {
    return this.messages.tapes
  }

  get boards() {
    return this.messages.boards
  }

  get cable(): CableState | null {
    return cableIn(path.dirname(this.standins))
  }

  cableImage(): Uint8Array | null {
    const { cable } = this
    if (!cable) return null
    const home = path.join(/* turbopackIgnore: true */ this.standins, '..', CABLE_FOLDER)
    return new Uint8Array(fs.readFileSync(path.join(/* turbopackIgnore: true */ home, cable.chip, 'image.bin')))
  }

  take(message: Message): void {
    this.messages.take(message)
  }

  holdsBoard(node: string): boolean {
    return fs.existsSync(path.join(/* turbopackIgnore: true */ this.standins, node))
  }

  async ask(whom: string, what: unknown): Promise<void> {
    await this.product.link.publish(`standin/${whom}/do`, JSON.stringify(what), false)
  }

  setAir(air: Record<string, string>): void {
    writeForGood(path.join(/* turbopackIgnore: true */ this.standins, 'air.json'), JSON.stringify(air))
  }

  async prepare(): Promise<void> {
    const { logins, workshop } = this.product
    await logins.set(OUTSIDE_NAME, 'reader', null, this.passwords.outsidePassword)
    await logins.set('controller', 'controller', null, this.passwords.controllerPassword)
    await logins.set('standin', 'standin', null, this.passwords.standinPassword)
    const folder = path.join(this.project, 'demo/designs')
    const first = workshop.all().length === 0 && (await this.product.lifecycle.retired()).length === 0
    fs.mkdirSync(this.standins, { recursive: true, mode: 0o700 })
    await this.openAir()
    const designs = fs
      .readdirSync(folder)
      .sort()
      .filter((name) => !this.only || this.only.includes(path.parse(name).name))
      .map((name) =>
        designSchema.parse(JSON.parse(fs.readFileSync(path.join(/* turbopackIgnore: true */ folder, name), 'utf8'))),
      )
    // All are here before the first file is written: files name other nodes.
    for (const design of first ? designs : []) {
      // What the user has removed stays removed.
      await workshop.add(design, 'demo')
      await this.past(design)
    }
    for (const design of designs) {
      const here = workshop.get(design.id)?.design
      // Its login keeps the name it was made with, whatever the node is called now.
      const login = `node-${design.slug}`
      if (here && !(await this.isWritten(here, login))) await this.flash(here, login)
    }
  }

  /** What a node on a cell told before anybody came here. */
  private async past(design: Design): Promise<void> {
    const { catalog, db } = this.product
    const board = catalog.boards[design.board.id]
    const cycle = board && cycleOf(design, board, catalog)
    const of = supplySignals(design, catalog)
    if (cycle && of) await putSupplyPast(db, design.id, cycle, of, Date.now())
  }

  /** The demo's access point: what is kept of its networks is what it lets in, until somebody changes it there. */
  private async openAir(): Promise<void> {
    const { shop, credentials } = this.product
    const networks = Object.keys(shop.document.networks)
    for (const ref of networks) if (!credentials.wayIn(ref)) await credentials.change(ref, newPassword())
    if (fs.existsSync(path.join(/* turbopackIgnore: true */ this.standins, 'air.json'))) return
    const ways = networks.map((ref) => credentials.wayIn(ref)).filter((way) => way !== null)
    this.setAir(Object.fromEntries(ways.map((way) => [way.name, way.password])))
  }

  /** The simulated board's flash is made once; only the broker's address follows the ports of this start. */
  private async isWritten(design: Design, login: string): Promise<boolean> {
    const { logins, credentials, link } = this.product
    const folder = path.join(/* turbopackIgnore: true */ this.standins, design.id)
    const nodeFile = path.join(/* turbopackIgnore: true */ folder, 'node.json')
    return (
      fs.existsSync(nodeFile) &&
      logins.has(login) &&
      fs
        .readFileSync(path.join(/* turbopackIgnore: true */ folder, 'secret.json'), 'utf8')
        .includes(await credentials.keyFor(design.id)) &&
      fs.readFileSync(nodeFile, 'utf8').includes(`"port":${link.address.port}`)
    )
  }

  async flash(design: Design, login = `node-${design.slug}`): Promise<void> {
    const { db, logins, credentials, link, catalog } = this.product
    const revision = ((await revisionsOf(db, design.id))[0]?.revision ?? 0) + 1
    const around = this.product.around(design)
    const result = compile(design, around, catalog, link.address, revision)
    if (!result.ok) return
    await insertRevision(db, design, around, result.compiled)
    await this.product.link.accessChanged(design.id)
    const broker = { name: login, password: newPassword() }
    await logins.set(broker.name, 'node', design.id, broker.password)
    const folder = path.join(/* turbopackIgnore: true */ this.standins, design.id)
    fs.mkdirSync(folder, { recursive: true, mode: 0o700 })
    const { ref } = design.network
    const key = await credentials.keyFor(design.id)
    const secret = { broker, networks: { [ref]: [credentials.wayIn(ref)] }, key, n: 0 }
    await credentials.written(design.id, ref)
    for (const left of LEFT_BEHIND) fs.rmSync(path.join(/* turbopackIgnore: true */ folder, left), { force: true })
    writeForGood(path.join(/* turbopackIgnore: true */ folder, 'secret.json'), JSON.stringify(secret))
    writeForGood(path.join(/* turbopackIgnore: true */ folder, 'td.json'), canonicalJson(result.compiled.td))
    writeForGood(path.join(/* turbopackIgnore: true */ folder, 'node.json'), result.compiled.text)
  }
}

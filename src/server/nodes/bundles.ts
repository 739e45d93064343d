import type { Bundle } from '../../core/bundle/bundleFiles'
import type { WentOn } from '../../core/bundle/installSteps'
import type { Catalog } from '../../core/catalog/catalog'
import type { Design } from '../../core/model/design'
import type { BrokerAddress } from '../../core/publish/describe'
import type { Surroundings } from '../../core/surroundings/surroundings'
import { type Logins, newPassword } from '../broker/logins'
import { nextMessage } from '../db/credentialRows'
import type { Database } from '../db/database'
import { log } from '../db/logbookRows'
import { insertRevision, revisionsOf } from '../db/revisionRows'
import type { Derived } from '../derived/derived'
import type { Credentials } from '../secrets/credentials'
import type { Workshop } from './workshop'

export interface BundlesOptions {
  db: Database
  project: string
  workshop: Workshop
  derived: Derived
  logins: Logins
  credentials: Credentials
  catalog: () => Catalog
  around: (design: Design) => Surroundings
  filesChanged: (node: string) => Promise<void>
  broker: () => BrokerAddress
  /** Logins belong to somebody else's broker. */
  outside: () => boolean
  /** What nodes log in with there, where somebody has said. */
  nodesOutside: () => Promise<{ name: string; password: string } | null>
  cutOff: (login: string) => Promise<void>
  /** The board of this node is a simulated one and keeps its login. */
  simulated: (node: string) => boolean
}

export type BundleOutcome = { ok: true; name: string; zip: Uint8Array } | { ok: false; reason: string }
const no = (reason: string) => ({ ok: false, reason }) as const

/** Everything to put a node onto its board by cable. */
export class Bundles {
  constructor(private readonly o: BundlesOptions) {}

  /**
   * With passwords the node gets a new login, key and file number; a simulated board keeps what it has. `past` are the
   * stops somebody went on past: the steps say so. `here`: for a simulated board, which is in this machine.
   */
  async make(id: string, passwords: boolean, past?: WentOn, here = false): Promise<BundleOutcome> {
    const { o } = this
    const design = o.workshop.get(id)?.design
    const board = design && o.catalog().boards[design.board.id]
    if (!design || !board) return no('there is no such node')
    const revision = ((await revisionsOf(o.db, id))[0]?.revision ?? 0) + 1
    const result = await o.derived.work('compile', design, o.around(design), o.broker(), revision)
    if (!result.ok) return no(`The file cannot be written yet: ${result.reasons.join('; ')}.`)
    // Loaded for those who ask for it: a start does without.
    const [{ bundleFiles }, { readRuntime, zipOf }] = await Promise.all([
      import('../../core/bundle/bundleFiles'),
      import('./installBundle'),
    ])
    const far = here ? null : await this.whyFar()
    if (far !== null) return no(far)
    const runtime = readRuntime(o.project, board.interpreter.chip)
    const named = (bundle: Bundle) => ({ ok: true as const, name: bundle.name, zip: zipOf(bundle) })
    if (!passwords)
      return named(
        bundleFiles({ design, catalog: o.catalog(), board }, result.compiled, runtime, { secret: null, past }),
      )
    const barred = await this.whyNoPasswords(design)
    if (barred !== null) return no(barred)
    await insertRevision(o.db, design, o.around(design), result.compiled)
    await o.filesChanged(design.id)
    const secret = await this.secret(design)
    await log(o.db, id, 'Vivid Node', `install bundle of revision ${revision} written, with passwords`)
    return named(bundleFiles({ design, catalog: o.catalog(), board }, result.compiled, runtime, { secret, past }))
  }

  /** The logbook keeps that another board stands in the place of one that is dead. */
  async replaced(id: string, by: string, why: string): Promise<void> {
    const of = why === '' ? '' : `; the old one: ${why}`
    await log(this.o.db, id, by, `another board in the place of the dead one${of}`)
  }

  /** Why no real board could reach the broker, and what to set; null when one could. */
  async whyFar(): Promise<string | null> {
    const { unreachable } = await import('./installBundle')
    const far = unreachable(this.o.broker().host)
    return far === null
      ? null
      : `${far} Start the product with VIVID_HOST=0.0.0.0, VIVID_SHOP_PASSWORD and VIVID_NAMES set to the address boards reach it by, or choose a broker elsewhere in the settings.`
  }

  private async whyNoPasswords(design: Design): Promise<string | null> {
    if (this.o.outside() && (await this.o.nodesOutside()) === null)
      return 'Logins of nodes belong to the outside broker and are not known here: enter one for all nodes in the settings (Broker), or take the bundle without passwords and write them into board/secret.json.'
    const { ref } = design.network
    if (!this.o.credentials.wayIn(ref))
      return `No password is kept for network “${ref}”: enter it in the settings, or take the bundle without passwords.`
    return this.o.simulated(design.id)
      ? 'This node runs on a simulated board, which keeps its login. A bundle without passwords can be had.'
      : null
  }

  private async secret(design: Design) {
    const { db, logins, credentials } = this.o
    const { ref } = design.network
    const broker = (await this.o.nodesOutside()) ?? { name: logins.nameFor(design), password: newPassword() }
    if (!this.o.outside()) {
      await logins.set(broker.name, 'node', design.id, broker.password)
      // Whoever is in with the old password, a board given up for dead perhaps, is out.
      await this.o.cutOff(broker.name)
    }
    const way = credentials.wayIn(ref)
    const secret = {
      broker,
      networks: { [ref]: way ? [way] : [] },
      key: await credentials.keyFor(design.id),
      n: await nextMessage(db, design.id),
    }
    await credentials.written(design.id, ref)
    return secret
  }
}

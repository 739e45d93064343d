import { randomUUID } from 'node:crypto'
import { networkAdvice } from '../../core/shop/networkAdvice'
import { inOrder } from '../../core/model/design'
import type { Shop } from '../../core/shop/shop'
import { topicsOf } from '../../core/publish/topics'
import type { Logins } from '../broker/logins'
import { newPassword } from '../broker/logins'
import type { Database } from '../db/database'
import {
  allCarried,
  allNodeKeys,
  type CarriedRow,
  type CredentialRow,
  forgetCredentialsBefore,
  insertCredential,
  latestCredentials,
  nextMessage,
  nodeKey,
  putCarried,
  putNodeKey,
} from '../db/credentialRows'
import { log } from '../db/logbookRows'
import type { Ingest } from '../live/ingest'
import type { CredentialState, NetworkCarriers } from '../../wire/protocol'
import type { Workshop } from '../nodes/workshop'
import { SealBroken, type Sealer } from './sealer'
import { newNodeKey, sealFor } from './vault'

export interface CredentialsOptions {
  db: Database
  sealer: Sealer
  workshop: Workshop
  ingest: Ingest
  logins: Logins
  root: string
  shop: () => Shop
  /** Logins belong to a broker elsewhere. */
  outside: () => boolean
  publish: (topic: string, payload: string) => Promise<void>
  isHere: (node: string) => boolean
  /** Somebody should look again: a state has changed. */
  changed: () => void
}

/** Time a node has to leave, try a new way in for a minute, and come back to say what became of it. */
const ANSWER_MS = 150_000

/** A network's password or a node's login: kept once, sealed; changed at the nodes without locking any of them out. */
export class Credentials {
  private latest = new Map<string, CredentialRow>()
  private carried = new Map<string, CarriedRow>()
  private underWay = new Set<string>()
  /** Nodes whose own key was sealed with one that is not here. */
  private readonly keyless = new Set<string>()

  private constructor(private readonly o: CredentialsOptions) {}

  static async load(o: CredentialsOptions): Promise<Credentials> {
    const c = new Credentials(o)
    for (const row of await latestCredentials(o.db)) c.latest.set(row.ref, row)
    for (const row of await allCarried(o.db)) c.carried.set(`${row.node_id} ${row.ref}`, row)
    for (const { node_id, sealed } of await allNodeKeys(o.db))
      if (c.opened(sealed, keyOf(node_id)) === null) c.keyless.add(node_id)
    return c
  }

  /**
   * Network name and password as a credentials file needs them; null where none has been entered, or the key it was
   * sealed with is lost.
   */
  wayIn(ref: string): { name: string; password: string } | null {
    const row = this.latest.get(ref)
    const password = row ? this.opened(row.sealed, about(ref, row.version)) : null
    return row && password !== null ? { name: row.network, password } : null
  }

  /**
   * A lost key loses what was sealed with it and nothing else: that it cannot be opened is a state, not a breakdown.
   */
  private opened(sealed: string, what: string): string | null {
    try {
      return this.o.sealer.open(sealed, what)
    } catch (e) {
      if (e instanceof SealBroken) return null
      throw e
    }
  }

  version(ref: string): number {
    return this.latest.get(ref)?.version ?? 0
  }

  /** Keeps a new password and begins to carry it to the nodes of this network. The reason when it cannot be one. */
  async change(ref: string, password: string): Promise<string | null> {
    const network = this.o.shop().networks[ref]
    if (!network) return `there is no network “${ref}”`
    if (password !== '' && password.trim() === '')
      return 'a password of nothing but blanks is none: enter the network’s own'
    const never = networkAdvice({ ...network, password }).find((a) => a.severity === 'stop')
    if (never) return never.words
    if (this.wayIn(ref)?.password === password && this.latest.get(ref)?.network === network.name)
      return 'this is the password already kept'
    const version = this.version(ref) + 1
    const sealed = this.o.sealer.seal(password, about(ref, version))
    await insertCredential(this.o.db, ref, version, network.name, sealed)
    this.latest.set(ref, { ref, version, network: network.name, sealed, at: new Date() })
    this.o.changed()
    for (const node of this.o.workshop.all())
      if (node.design.network.ref === ref) void this.carry(node.id).catch(() => undefined)
    return null
  }

  /** Who has it and who has not, network by network. */
  states(): NetworkCarriers[] {
    return inOrder(this.o.shop().networks).map(({ id: ref, value: n }) => {
      const version = this.version(ref)
      const nodes = this.o.workshop
        .all()
        .filter((x) => x.design.network.ref === ref)
        .map((x) => {
          const row = this.carried.get(`${x.id} ${ref}`)
          return {
            id: x.id,
            name: x.design.name,
            slug: x.design.slug,
            ...this.stateOf(x.id, row, version),
            keyless: this.keyless.has(x.id),
            at: row?.at.toISOString() ?? null,
            has: row !== undefined && (row.version === version || (row.tried === version && row.state === 'returned')),
          }
        })
      return {
        ref,
        name: n.name,
        hidden: n.hidden,
        band: n.band,
        version,
        known: this.wayIn(ref) !== null,
        nodes,
      }
    })
  }

  private stateOf(
    node: string,
    row: CarriedRow | undefined,
    version: number,
  ): { state: CredentialState; reason: string | null } {
    if (version === 0) return { state: 'unknown', reason: 'no password is kept for this network' }
    const ref = this.o.workshop.get(node)?.design.network.ref ?? ''
    if (this.wayIn(ref) === null)
      return {
        state: 'unknown',
        reason: 'the password cannot be opened with this key: put the key file or passphrase back, or enter it anew',
      }
    if (!row) return { state: 'unknown', reason: 'nothing was ever written to it from here' }
    if (row.version === version) return { state: 'carried', reason: null }
    if (this.underWay.has(node)) return { state: 'trying', reason: null }
    const status = this.o.workshop.get(node)?.live.status
    if (status?.is === 'asleep') return { state: 'asleep', reason: 'it is sent when it wakes' }
    if (!this.o.isHere(node))
      return { state: 'unreachable', reason: row.tried === version ? row.reason : 'it is sent when it is back' }
    return row.tried === version ? { state: 'pending', reason: row.reason } : { state: 'pending', reason: null }
  }

  /** Sends what a node has not shown to work yet. Called when something changed and whenever a node comes online. */
  async carry(node: string): Promise<void> {
    const state = this.o.workshop.get(node)
    const ref = state?.design.network.ref ?? ''
    const current = this.latest.get(ref)
    const row = this.carried.get(`${node} ${ref}`)
    if (
      !state ||
      !current ||
      !row ||
      row.version === current.version ||
      this.underWay.has(node) ||
      !this.o.isHere(node)
    )
      return
    // What it went back from it keeps as a second way in, and tells when that has worked: sending it again would only
    // cut it off for another minute.
    if (row.tried === current.version && row.state === 'returned') return
    const way = this.wayIn(ref)
    if (!way) return
    this.underWay.add(node)
    this.o.changed()
    const { version } = current
    // The answer may come days and restarts later: what it is about stands in its id.
    const id = `${ref}/${version}/${randomUUID()}`
    const done = await this.seal(node, { id, do: 'network', ref, way })
    this.underWay.delete(node)
    await this.became(node, ref, version, done.result, done.reason)
  }

  /** An answer nobody waits for any more: a node has got in by the new way after all. */
  late(node: string, id: string | null, result: string, reason: string | undefined): void {
    const [ref = '', version = ''] = id?.split('/') ?? []
    if (this.latest.get(ref)?.version === Number(version) && !this.underWay.has(node) && result !== 'trying')
      void this.became(node, ref, Number(version), result, reason ?? null).catch(() => undefined)
  }

  private async became(
    node: string,
    ref: string,
    version: number,
    result: string,
    reason: string | null,
  ): Promise<void> {
    const before = this.carried.get(`${node} ${ref}`)?.version ?? 0
    const good = result === 'done'
    const refusedState = result === 'refused' ? ('refused' as const) : ('waiting' as const)
    const notGood = result === 'returned' ? ('returned' as const) : refusedState
    const row = {
      node_id: node,
      ref,
      version: good ? version : before,
      tried: version,
      state: good ? ('carried' as const) : notGood,
      reason: good ? null : reason,
    }
    await putCarried(this.o.db, row)
    this.carried.set(`${node} ${ref}`, { ...row, at: new Date() })
    await log(
      this.o.db,
      node,
      'Vivid Node',
      good ? `got in with the new password of network ${ref}` : `new password of network ${ref}: ${reason ?? result}`,
    )
    this.o.changed()
    if (!good) return
    // Proven: the old way in goes from the node, and from here once nobody needs it.
    void this.seal(node, { id: randomUUID(), do: 'drop', ref, way: this.wayIn(ref) }).catch(() => undefined)
    const all = this.o.workshop.all().filter((n) => n.design.network.ref === ref)
    if (all.every((n) => this.carried.get(`${n.id} ${ref}`)?.version === version))
      await forgetCredentialsBefore(this.o.db, ref, version)
  }

  /** A new password for a node's own login: both count until it has come back with the new one. */
  async renewLogin(node: string): Promise<{ ok: true } | { ok: false; reason: string }> {
    const state = this.o.workshop.get(node)
    const name = this.o.logins.ofNode(node)
    if (this.o.outside())
      return {
        ok: false,
        reason: 'its login belongs to the outside broker: change it there, and write it into a new bundle',
      }
    if (!state || name === null)
      return { ok: false, reason: 'this node has no login yet: write its install bundle first' }
    if (!this.o.isHere(node))
      return { ok: false, reason: `${state.design.name} is not connected: its login stays as it is` }
    if (this.underWay.has(node)) return { ok: false, reason: 'another change is under way at this node' }
    this.underWay.add(node)
    const password = newPassword()
    await this.o.logins.addNext(name, password)
    const done = await this.seal(node, { id: randomUUID(), do: 'broker', login: { name, password } })
    this.underWay.delete(node)
    if (done.result === 'done') await this.o.logins.promote(name)
    else await this.o.logins.dropNext(name)
    await log(
      this.o.db,
      node,
      'Vivid Node',
      done.result === 'done' ? 'broker login renewed' : `broker login not renewed: ${done.reason ?? done.result}`,
    )
    return done.result === 'done' ? { ok: true } : { ok: false, reason: done.reason ?? 'no answer' }
  }

  /** What a bundle or a simulated board gets: the key is made at its first use. */
  async keyFor(node: string): Promise<string> {
    const kept = await nodeKey(this.o.db, node)
    const known = kept === null ? null : this.opened(kept, keyOf(node))
    if (known !== null) return known
    const key = newNodeKey()
    await putNodeKey(this.o.db, node, this.o.sealer.seal(key, keyOf(node)))
    this.keyless.delete(node)
    return key
  }

  /** A credentials file with the present password has been written for this node. */
  async written(node: string, ref: string): Promise<void> {
    const version = this.version(ref)
    const row = { node_id: node, ref, version, tried: version, state: 'carried' as const, reason: null }
    await putCarried(this.o.db, row)
    this.carried.set(`${node} ${ref}`, { ...row, at: new Date() })
  }

  private async seal(
    node: string,
    job: { id: string; do: string } & Record<string, unknown>,
  ): Promise<{ result: string; reason: string | null }> {
    const slug = this.o.workshop.get(node)?.design.slug
    const kept = await nodeKey(this.o.db, node)
    const key = kept === null ? null : this.opened(kept, keyOf(node))
    if (slug === undefined || key === null)
      return {
        result: 'refused',
        reason: 'it has no key for sealed messages, or ours is lost: write its install bundle anew',
      }
    const text = JSON.stringify({ ...job, n: await nextMessage(this.o.db, node) })
    const answer = this.o.ingest.answers.to(job.id, ANSWER_MS, ['trying'])
    await this.o.publish(topicsOf(this.o.root, slug).vaultSet, sealFor(key, text))
    const done = await answer
    return done
      ? { result: done.result, reason: done.reason ?? null }
      : { result: 'waiting', reason: 'no answer yet: it keeps the old password and tells when the new one has worked' }
  }
}

const about = (ref: string, version: number) => `password ${version} of network ${ref}`
const keyOf = (node: string) => `key of node ${node}`

import { randomUUID } from 'node:crypto'
import type { Surroundings } from '../../core/surroundings/surroundings'
import type { Design } from '../../core/model/design'
import { canonicalJson } from '../../core/hash/canonicalJson'
import { sha256Hex } from '../../core/hash/sha256Hex'
import { type Compiled, packagePieces, packageText } from '../../core/nodefile/compile'
import { nodeFileSchema } from '../../core/nodefile/nodeFile'
import type { BrokerAddress } from '../../core/publish/describe'
import type { Done } from '../../core/publish/payload'
import { topicsOf } from '../../core/publish/topics'
import type { Database } from '../db/database'
import { log } from '../db/logbookRows'
import {
  formerSignals,
  insertRevision,
  revisionOf,
  revisionsOf,
  setRevisionState,
  waitingRevisions,
} from '../db/revisionRows'
import type { Derived } from '../derived/derived'
import type { Ingest } from '../live/ingest'
import type { NodeLive } from '../../wire/protocol'
import type { Workshop } from './workshop'

export type SendOutcome =
  | { kind: 'running'; revision: number; hash: string }
  | { kind: 'waits'; revision: number; back: number | null }
  | { kind: 'incomplete'; reasons: string[] }
  | { kind: 'failed'; revision: number; reason: string }

export interface RevisionsOptions {
  db: Database
  workshop: Workshop
  ingest: Ingest
  root: string
  derived: Derived
  broker: () => BrokerAddress
  publish: (topic: string, payload: string | Buffer) => Promise<void>
  isHere: (node: string) => boolean
  around: (design: Design) => Surroundings
  /** The node has another file to come: what it may say and hear is wider before it is sent. */
  filesChanged: (node: string) => Promise<void>
  /** The node goes by the names of this file: what is kept under its former ones, and its signals', can go. */
  moved: (node: string, formerSignals: readonly string[]) => void
}

/** Time a board has to answer that it runs a new file: it starts it, connects, and only then says so. */
const ANSWER_MS = 75_000
/** Time a piece of a file has to be acknowledged, and how often one is sent before the node is given up. */
const PIECE_MS = 5000
const PIECE_TRIES = 12

/** A file on its way in pieces, and the answer it ends with. */
interface InPieces {
  id: string
  revision: number
  command: string
  topics: readonly string[]
  pieces: readonly Buffer[]
  answer: Promise<Done | null>
}

/** Files of the nodes by number: compiled, sent, acknowledged, gone back to. */
export class Revisions {
  /** Files that wait for their node to wake. */
  private waiting = new Map<string, number>()
  private sending = new Set<string>()

  private constructor(private readonly o: RevisionsOptions) {}

  static async load(o: RevisionsOptions): Promise<Revisions> {
    const r = new Revisions(o)
    for (const { node_id, revision } of await waitingRevisions(o.db)) {
      r.waiting.set(node_id, revision)
      o.workshop.live(node_id, { sending: { revision, step: 'waits for it to wake' } })
    }
    return r
  }

  /**
   * Compiles the design, sends it and waits until the node says it runs it, refuses it, or has gone back to the old
   * one.
   */
  async send(id: string): Promise<SendOutcome | null> {
    const node = this.o.workshop.get(id)
    if (!node) return null
    const revision = await this.nextNumber(id)
    const result = await this.o.derived.work(
      'compile',
      node.design,
      this.o.around(node.design),
      this.o.broker(),
      revision,
    )
    return result.ok ? this.put(node.design, result.compiled) : { kind: 'incomplete', reasons: result.reasons }
  }

  /** Sends what a former revision said, under a new number; the design stays as it is. */
  async sendAgain(id: string, former: number): Promise<SendOutcome | null> {
    const node = this.o.workshop.get(id)
    const kept = node && (await revisionOf(this.o.db, id, former))
    if (!node || !kept) return null
    const revision = await this.nextNumber(id)
    const { host, port } = this.o.broker()
    const old = nodeFileSchema.parse(JSON.parse(kept.file))
    if (!this.o.workshop.slugsOf(id).includes(old.node))
      return {
        kind: 'failed',
        revision: former,
        reason: `it was called “${old.node}” then and may not speak under that name any more; take the design back instead`,
      }
    const file = { ...old, revision, broker: { ...old.broker, host, port } }
    const text = canonicalJson(file)
    return this.put(kept.design ?? node.design, { file, text, hash: sha256Hex(text), td: kept.td as Compiled['td'] })
  }

  private async nextNumber(id: string): Promise<number> {
    return ((await revisionsOf(this.o.db, id))[0]?.revision ?? 0) + 1
  }

  private async put(design: Design, compiled: Compiled): Promise<SendOutcome> {
    const { id } = design
    const { revision } = compiled.file
    if (this.sending.has(id))
      return { kind: 'failed', revision, reason: 'another file is on its way to this node; wait for its answer' }
    await insertRevision(this.o.db, design, this.o.around(design), compiled)
    await this.o.filesChanged(id)
    if (this.o.isHere(id)) return this.deliver(id, revision)
    const status = this.o.workshop.get(id)?.live.status
    if (status?.is !== 'asleep') return this.failed(id, revision, 'the node is not connected: nothing was sent')
    // A sleeper gets it when it wakes; an older file that waited for that is overtaken.
    const overtaken = this.waiting.get(id)
    if (overtaken !== undefined)
      await setRevisionState(this.o.db, id, overtaken, 'unanswered', `overtaken by revision ${revision}`)
    await setRevisionState(this.o.db, id, revision, 'waiting', null)
    this.waiting.set(id, revision)
    this.step(id, { revision, step: 'waits for it to wake' })
    return { kind: 'waits', revision, back: status.back }
  }

  /** A node has come online: what waited for it goes out while it listens. */
  online(id: string): void {
    const revision = this.waiting.get(id)
    if (revision === undefined || this.sending.has(id)) return
    this.waiting.delete(id)
    // Fails only where nothing is saved any more, and that is said by whoever saves.
    void this.deliver(id, revision).catch(() => undefined)
  }

  /** Its connection has begun or ended: while a file is on its way that says how far it has come. */
  connection(id: string, here: boolean): void {
    const { sending } = this.o.workshop.get(id)?.live ?? {}
    if (sending && this.sending.has(id))
      this.step(id, { revision: sending.revision, step: here ? 'connected again' : 'tried by the node' })
  }

  private async deliver(id: string, revision: number): Promise<SendOutcome> {
    const kept = await revisionOf(this.o.db, id, revision)
    const node = this.o.workshop.get(id)
    if (!kept || !node) return { kind: 'failed', revision, reason: 'it is no longer kept' }
    this.sending.add(id)
    this.step(id, { revision, step: 'sent' })
    try {
      const command = randomUUID()
      const text = packageText({
        id: command,
        revision,
        hash: kept.hash,
        text: kept.file,
        td: kept.td as Compiled['td'],
      })
      const topics = (await this.listensAs(id)).map((slug) => topicsOf(this.o.root, slug).configSet)
      const eachB = node.live.running?.pieces
      const pieces =
        eachB === undefined ? null : packagePieces(command, Buffer.from(text), eachB).map((p) => Buffer.from(p))
      const answer = this.o.ingest.answers.to(command, ANSWER_MS + (pieces?.length ?? 0) * PIECE_MS)
      if (pieces) await this.sendPieces({ id, revision, command, topics, pieces, answer })
      else for (const topic of topics) await this.o.publish(topic, text)
      await setRevisionState(this.o.db, id, revision, 'sent', null)
      const done = await answer
      if (done?.result === 'done') {
        await setRevisionState(this.o.db, id, revision, 'running', null)
        await log(this.o.db, id, 'Vivid Node', `revision ${revision} sent and running`)
        this.o.moved(id, await formerSignals(this.o.db, id, revision))
        return { kind: 'running', revision, hash: kept.hash }
      }
      const reason = done ? (done.reason ?? 'no reason given') : `no answer within ${ANSWER_MS / 1000} s`
      const endState = done ? 'returned' : 'unanswered'
      await setRevisionState(this.o.db, id, revision, done?.result === 'refused' ? 'refused' : endState, reason)
      await log(
        this.o.db,
        id,
        'Vivid Node',
        `revision ${revision} ${done?.result === 'returned' ? 'tried and taken back by the node' : 'does not run'}: ${reason}`,
      )
      return {
        kind: 'failed',
        revision,
        reason: done?.result === 'returned' ? `${reason}. The node went back to the file before by itself` : reason,
      }
    } finally {
      this.sending.delete(id)
      this.step(id, null)
    }
  }

  /**
   * One piece after the other, each when the one before has been acknowledged; again from where the node is when it has
   * been away. Ends when the last one has gone out, or the node has given its answer.
   */
  private async sendPieces({ id, revision, command, topics, pieces, answer }: InPieces): Promise<void> {
    const of = pieces.length
    const ended: (Done | null)[] = []
    void answer.then((done) => ended.push(done))
    for (let [n, tries] = [0, 0]; ended.length === 0 && tries < PIECE_TRIES;) {
      const piece = pieces[n]
      if (!piece) return
      const taken = this.o.ingest.answers.to(`${command}/${n}`, PIECE_MS)
      if (this.o.isHere(id)) for (const topic of topics) await this.o.publish(topic, piece)
      // The last one is not acknowledged but answered: the node ends its connection to try the whole.
      const done = await (n === of - 1 ? Promise.race([taken, answer]) : taken)
      if (done?.result === 'piece' && done.next !== undefined && done.next !== n) {
        n = done.next
        tries = 0
        this.step(id, { revision, step: 'sent', pieces: { sent: n, of } })
      } else if (n === of - 1 && (done !== null || !this.o.isHere(id))) return
      else tries += 1
    }
  }

  /**
   * A node that has just been renamed still listens under the name its last file gave it; where that is not known,
   * under one of those it has had.
   */
  private async listensAs(id: string): Promise<readonly string[]> {
    const running = this.o.workshop.get(id)?.live.running
    const slugs = this.o.workshop.slugsOf(id)
    const last = running && (await revisionOf(this.o.db, id, running.revision))?.slug
    return last && slugs.includes(last) ? [last] : slugs
  }

  private async failed(id: string, revision: number, reason: string): Promise<SendOutcome> {
    await setRevisionState(this.o.db, id, revision, 'unanswered', reason)
    return { kind: 'failed', revision, reason }
  }

  private step(id: string, sending: NodeLive['sending']): void {
    this.o.workshop.live(id, { sending })
  }
}

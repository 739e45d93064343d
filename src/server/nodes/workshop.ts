import type { Design } from '../../core/model/design'
import { freeOfReserved, isReservedNode } from '../../core/model/reserved'
import { randomUUID } from 'node:crypto'
import type { Edit, EditBody } from '../../core/edits/edit'
import { editWords } from '../../core/edits/apply'
import { type Catalog, withItems } from '../../core/catalog/catalog'
import { withChoiceIds } from '../../core/model/choices'
import { withWiresOf } from '../../core/edits/normalize'
import type { Scalar } from '../../core/publish/payload'
import { DatabaseError, type Database } from '../db/database'
import { acknowledge, allAcknowledgements, log } from '../db/logbookRows'
import { allNodes, editsAfter, editSeq, type EditRow, nodeStatements, saveEdit } from '../db/nodeRows'
import type { Derived } from '../derived/derived'
import { allRunning, setRunning, slugsSinceRunning } from '../db/revisionRows'
import type { NodeLive, NodeState } from '../../wire/protocol'
import { isoTime } from '../live/isoTime'
import type { LiveStream } from '../live/stream'
import type { Shelf } from '../shelf/shelf'

export type EditOutcome =
  | { kind: 'saved'; seq: number }
  | { kind: 'behind'; seq: number; missed: EditRow[] }
  | { kind: 'refused'; reason: string; accepts: string }
  | { kind: 'unknown' }

/** Fast enough that a value is seen to move, slow enough that a flood of them is not. */
const TELL_MS = 60
const nothingHeard = (): NodeLive => ({
  status: null,
  heardAt: null,
  health: null,
  running: null,
  values: {},
  faults: {},
  acknowledged: [],
  sending: null,
})

/** A design of an earlier release with what has come since. */
const asNow = (design: Design, catalog: Catalog): Design => withWiresOf(withChoiceIds(design, catalog), catalog)

/** All nodes in memory as the database has them, and the one place where a design changes. */
export class Workshop {
  private nodes = new Map<string, NodeState>()
  private turns = new Map<string, Promise<unknown>>()
  /** Numbers that have come and are not told yet, by node. */
  private untold = new Map<string, Set<string>>()
  private telling: NodeJS.Timeout | null = null
  /** Slugs a node went by since the file it runs: its old topics stay its own until it has moved. */
  private formerSlugs = new Map<string, Set<string>>()

  /** Networks a design may name. */
  networks: () => readonly string[] = () => []
  /** Short names that senders have. */
  otherSlugs: () => readonly string[] = () => []

  private slugLists = new Map<string, { slug: string; former: number; list: readonly string[] }>()

  private constructor(
    private readonly db: Database,
    private readonly shelf: Shelf,
    private readonly stream: LiveStream,
    private readonly derived: Derived,
  ) {}

  static async load(db: Database, shelf: Shelf, stream: LiveStream, derived: Derived): Promise<Workshop> {
    const shop = new Workshop(db, shelf, stream, derived)
    for (const { id, design, seq } of await allNodes(db))
      shop.nodes.set(id, {
        id,
        design: asNow(design, withItems(shelf.catalog, design.items)),
        seq,
        live: nothingHeard(),
      })
    for (const { node_id, revision, hash } of await allRunning(db)) shop.patch(node_id, { running: { revision, hash } })
    for (const { node_id, slug } of await slugsSinceRunning(db)) {
      if (shop.get(node_id)?.design.slug !== slug)
        shop.formerSlugs.set(node_id, (shop.formerSlugs.get(node_id) ?? new Set()).add(slug))
    }
    for (const { node_id, finding } of await allAcknowledgements(db))
      shop.nodes.get(node_id)?.live.acknowledged.push(finding)
    await shop.freeReserved()
    return shop
  }

  /**
   * Words that have got a meaning of their own since a design was made: it is renamed by an edit like any other, and
   * the log says so.
   */
  private async freeReserved(): Promise<void> {
    for (const node of this.all()) {
      const { design, said } = freeOfReserved(node.design)
      if (said.length === 0) continue
      const made = (body: EditBody): Edit => ({
        id: randomUUID(),
        document: node.id,
        base: this.get(node.id)?.seq ?? 0,
        author: 'Vivid Node',
        at: new Date().toISOString(),
        body,
      })
      for (const [signalId, { name, slug }] of Object.entries(design.signals))
        if (slug !== node.design.signals[signalId]?.slug)
          await this.edit(made({ kind: 'rename-signal', signalId, name, slug }))
      const { name, slug, place } = design
      if (slug !== node.design.slug) await this.edit(made({ kind: 'identify', name, slug, place }))
      for (const words of said) await log(this.db, node.id, 'Vivid Node', words)
    }
  }

  all(): NodeState[] {
    return [...this.nodes.values()]
  }

  get(id: string): NodeState | undefined {
    return this.nodes.get(id)
  }

  bySlug(slug: string): NodeState | undefined {
    for (const node of this.nodes.values()) if (node.design.slug === slug) return node
    for (const node of this.nodes.values()) if (this.formerSlugs.get(node.id)?.has(slug)) return node
    return undefined
  }

  /** Slugs a node may speak under. The same list until one of them changes: who has asked before can tell. */
  slugsOf(id: string): readonly string[] {
    const node = this.nodes.get(id)
    if (!node) return []
    const former = this.formerSlugs.get(id)
    const known = this.slugLists.get(id)
    if (known && known.slug === node.design.slug && known.former === (former?.size ?? 0)) return known.list
    const list = [node.design.slug, ...(former ?? [])]
    this.slugLists.set(id, { slug: node.design.slug, former: former?.size ?? 0, list })
    return list
  }

  /**
   * Adds a node and the items it brings along, all or nothing; refuses a node that is here and a slug that is taken.
   */
  add(design: Design, author: string): Promise<string | null> {
    // One after the other: of two at once that would take the same name, the second is told.
    return this.inTurn('', () => this.addNow(design, author))
  }

  private async addNow(design: Design, author: string): Promise<string | null> {
    const here = this.get(design.id)
    if (here) return `this node is here already, as ${here.design.name}`
    const clash =
      this.slugClash(design.id, design.slug) ?? (await this.shelf.add(design.items, nodeStatements(design, author)))
    if (clash) return clash
    const node = { id: design.id, design, seq: 0, live: nothingHeard() }
    this.nodes.set(design.id, node)
    this.stream.emit({ kind: 'node', node })
    return null
  }

  /**
   * One edit after the other per node. Saved means the row is in the database. The same edit sent twice is saved once.
   */
  edit(edit: Edit): Promise<EditOutcome> {
    return this.inTurn(edit.document, () => this.editNow(edit))
  }

  private async editNow(edit: Edit): Promise<EditOutcome> {
    const node = this.nodes.get(edit.document)
    if (!node) return { kind: 'unknown' }
    const already = await editSeq(this.db, edit.id)
    if (already !== null) return { kind: 'saved', seq: already }
    if (edit.base !== node.seq)
      return { kind: 'behind', seq: node.seq, missed: await editsAfter(this.db, edit.document, edit.base) }
    const applied = await this.derived.work('apply', node.design, edit.body)
    if (!applied.ok) return { kind: 'refused', reason: applied.reason, accepts: applied.accepts }
    const { ref } = applied.design.network
    const refs = this.networks()
    if (ref !== node.design.network.ref && !refs.includes(ref))
      return { kind: 'refused', reason: `the shop has no network “${ref}”`, accepts: refs.join(', ') }
    const clash = this.slugClash(edit.document, applied.design.slug)
    if (clash) return { kind: 'refused', reason: clash, accepts: 'a short name no other node has' }
    const saved = await saveEdit(this.db, edit, editWords(edit.body, node.design), applied.design).catch(
      async (e: unknown) => {
        // An error of the disk or the engine does not say whether the row is there: the row does.
        const seq = await editSeq(this.db, edit.id).catch(() => null)
        if (seq === null) throw e
        return true
      },
    )
    if (!saved) throw new DatabaseError('the node in the database is not the one in memory', null)
    const oldSlug = node.design.slug
    if (oldSlug !== applied.design.slug) {
      this.formerSlugs.set(edit.document, (this.formerSlugs.get(edit.document) ?? new Set()).add(oldSlug))
    }
    const seq = node.seq + 1
    this.nodes.set(edit.document, {
      ...node,
      design: applied.design,
      seq,
      live: this.nodes.get(edit.document)?.live ?? node.live,
    })
    this.stream.emit({ kind: 'edit', node: edit.document, seq, editId: edit.id, body: edit.body, author: edit.author })
    return { kind: 'saved', seq }
  }

  /** A node is in the shop no more. */
  leave(id: string): void {
    this.nodes.delete(id)
    this.formerSlugs.delete(id)
    this.slugLists.delete(id)
    this.stream.emit({ kind: 'node-gone', node: id })
  }

  /** One that was retired is back, as it was. */
  come({ id, design, seq }: { id: string; design: Design; seq: number }): void {
    const node = { id, design: asNow(design, withItems(this.shelf.catalog, design.items)), seq, live: nothingHeard() }
    this.nodes.set(id, node)
    this.stream.emit({ kind: 'node', node })
  }

  async acknowledge(id: string, finding: string, name: string, title: string): Promise<void> {
    await acknowledge(this.db, id, finding, name, title)
    const live = this.nodes.get(id)?.live
    if (live && !live.acknowledged.includes(finding)) this.live(id, { acknowledged: [...live.acknowledged, finding] })
  }

  /** Slugs whose retained messages are left behind by a rename, once the node itself has moved. */
  movedFrom(id: string): string[] {
    const former = [...(this.formerSlugs.get(id) ?? [])].filter((s) => s !== this.nodes.get(id)?.design.slug)
    this.formerSlugs.delete(id)
    return former
  }

  heard(node: NodeState, atMs: number): void {
    node.live.heardAt = isoTime(atMs)
  }

  live(id: string, change: Partial<Omit<NodeLive, 'values'>>): void {
    this.patch(id, change)
    const node = this.nodes.get(id)
    if (!node) return
    const { values: _, ...live } = node.live
    this.stream.emit({ kind: 'live', node: id, live })
  }

  runs(id: string, running: { revision: number; hash: string }): void {
    this.live(id, { running })
    void setRunning(this.db, id, running.revision, running.hash).catch(() => undefined)
  }

  value({ id, live }: NodeState, signal: string, value: Scalar, atMs: number): void {
    const at = isoTime(atMs)
    live.values[signal] = { value, at }
    if (value !== null && live.faults[signal]) {
      const { [signal]: _, ...faults } = live.faults
      this.live(id, { faults })
    }
    // Numbers that follow each other faster than anybody sees are told as the last of them; what is pressed or switched
    // is told each time.
    if (typeof value !== 'number') this.stream.emit({ kind: 'value', node: id, signal, value, at })
    else this.tellSoon(id, signal)
  }

  private tellSoon(id: string, signal: string): void {
    const waiting = this.untold.get(id)
    if (waiting) waiting.add(signal)
    else this.untold.set(id, new Set([signal]))
    this.telling ??= setTimeout(() => {
      this.telling = null
      for (const [node, signals] of this.untold) {
        for (const s of signals) {
          const last = this.nodes.get(node)?.live.values[s]
          if (last) this.stream.emit({ kind: 'value', node, signal: s, ...last })
        }
      }
      this.untold.clear()
    }, TELL_MS)
  }

  private patch(id: string, change: Partial<NodeLive>): void {
    const node = this.nodes.get(id)
    if (node) node.live = { ...node.live, ...change }
  }

  private slugClash(id: string, slug: string): string | null {
    if (isReservedNode(slug)) return `“${slug}” has a meaning of its own in the topics`
    if (this.otherSlugs().includes(slug)) return `a sender is called “${slug}” already`
    return this.all().some((n) => n.id !== id && n.design.slug === slug)
      ? `another node is called “${slug}” already`
      : null
  }

  private inTurn<T>(id: string, task: () => Promise<T>): Promise<T> {
    const turn = (this.turns.get(id) ?? Promise.resolve()).then(task, task)
    this.turns.set(
      id,
      turn.catch(() => undefined),
    )
    return turn
  }
}

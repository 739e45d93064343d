import type { Catalog } from '../../core/catalog/catalog'
import { byId } from '../../core/model/design'
import type { SheetNode } from '../../core/publish/entitySheet'
import type { Shop } from '../../core/shop/shop'
import { renderTemplate } from '../../core/templates/render'
import { allAnnounced, type Announced, dropAnnounced, putAnnounced } from '../db/announcedRows'
import type { Database } from '../db/database'
import type { LiveStream } from '../live/stream'

export interface AnnouncingOptions {
  db: Database
  root: string
  stream: LiveStream
  catalog: () => Catalog
  shop: () => Shop
  /** Nodes that have run, with where they are. */
  nodes: () => SheetNode[]
  /** Descriptions of senders: their receivers carry them, and nobody else can tell what they are. */
  senders: () => Announced[]
  isUp: () => boolean
  publish: (topic: string, payload: string) => Promise<void>
  trouble: (topic: string, what: string) => void
}

/** Edits come in bursts: what follows from them is told once they pause, ms. */
const PAUSE_MS = 400
const KINDS = ['node', 'node-gone', 'edit', 'shop-edit', 'shelf', 'broker', 'live']

/**
 * What controllers are told in forms of the user's own, retained: published when it changes, cleared when its thing,
 * its name or its template goes. What may be at the broker has a row first.
 */
export class Announcing {
  private timer: NodeJS.Timeout | null = null
  private work: Promise<void> = Promise.resolve()
  private anew = true
  private told = ''
  private readonly said = new Set<string>()

  constructor(private readonly o: AnnouncingOptions) {
    o.stream.listen((_, { kind }) => {
      if (!KINDS.includes(kind)) return
      // A node lives on all the time; here only its first running counts.
      if (kind === 'live' && this.who() === this.told) return
      // Another broker, or one that has lost what it kept, is told everything.
      if (kind === 'broker') this.anew = true
      this.soon()
    })
    this.soon()
  }

  /** When all that is due has been said. */
  settled(): Promise<void> {
    return this.work
  }

  /** Filters of everything that is announced in a form of the user's own. */
  filters(): string[] {
    return [...new Set([...this.wanted().keys()].map((topic) => `${topic.split('/')[0] ?? ''}/#`))].sort()
  }

  stop(): void {
    if (this.timer) clearTimeout(this.timer)
    this.timer = null
  }

  private soon(): void {
    this.timer ??= setTimeout(() => {
      this.timer = null
      this.work = this.work
        .then(() => this.tell())
        .catch((e: unknown) => this.o.trouble('', `announcing: ${String(e)}`))
    }, PAUSE_MS)
  }

  private async tell(): Promise<void> {
    if (!this.o.isUp()) return
    this.told = this.who()
    const wanted = this.wanted()
    const known = new Map((await allAnnounced(this.o.db)).map((r) => [r.topic, r]))
    const { anew } = this
    this.anew = false
    const changed = [...wanted.values()].filter((r) => anew || known.get(r.topic)?.payload !== r.payload)
    const gone = [...known.keys()].filter((topic) => !wanted.has(topic))
    await putAnnounced(
      this.o.db,
      changed.filter((r) => known.get(r.topic)?.payload !== r.payload),
    )
    for (const { topic, payload } of changed) await this.o.publish(topic, payload)
    for (const topic of gone) await this.o.publish(topic, '')
    await dropAnnounced(this.o.db, gone)
  }

  private who(): string {
    return this.o
      .nodes()
      .map((n) => n.id)
      .join()
  }

  /** Messages of every template that is on and without a fault, by topic. */
  private wanted(): Map<string, Announced> {
    const out = new Map<string, Announced>()
    const nodes = this.o.nodes()
    for (const { id, value: template } of byId(this.o.shop().templates)) {
      if (!template.on) continue
      const { messages, faults } = renderTemplate(template, nodes, this.o.catalog(), this.o.root)
      const [first] = faults
      if (first) {
        const of = first.of === '' ? '' : ` of ${first.of}`
        const words = `template “${template.name}” is not published: ${first.where}${of} ${first.words}`
        if (!this.said.has(words)) this.o.trouble('', words)
        this.said.add(words)
        continue
      }
      for (const { topic, payload, nodeId } of messages)
        if (!out.has(topic)) out.set(topic, { topic, payload, node_id: nodeId, template_id: id })
    }
    for (const row of this.o.senders()) out.set(row.topic, row)
    return out
  }
}

import { randomUUID } from 'node:crypto'
import { copyDesign } from '../../core/edits/copyDesign'
import { slugFrom } from '../../core/model/slug'
import { topicsOf } from '../../core/publish/topics'
import type { Retired } from '../../wire/retired'
import type { Logins } from '../broker/logins'
import type { Database } from '../db/database'
import { bringBackNode, deleteNode, retiredRows, retireNode } from '../db/retiredRows'
import type { Workshop } from './workshop'

export interface LifecycleOptions {
  db: Database
  root: string
  workshop: Workshop
  logins: Logins
  /** Topics the broker keeps a message on, below this. */
  retainedBelow: (topic: string) => string[]
  /** Publishes nothing, retained: what the broker kept there is gone. */
  clear: (topic: string) => Promise<void>
  cutOff: (login: string) => Promise<void>
}

/** A node copied, retired, brought back, and deleted for good. */
export class Lifecycle {
  constructor(private readonly o: LifecycleOptions) {}

  /** The same node under another name, to be built once more; its slug, or why not. */
  async copy(id: string, name: string, author: string): Promise<{ slug: string } | { reason: string }> {
    const node = this.o.workshop.get(id)
    if (!node) return { reason: 'There is no such node.' }
    const slug = slugFrom(
      name,
      this.o.workshop.all().map((n) => n.design.slug),
    )
    const refused = await this.o.workshop.add(copyDesign(node.design, { id: randomUUID(), name, slug }), author)
    return refused === null ? { slug } : { reason: `${refused}.` }
  }

  /** Its topics are cleared and its login is gone; what it has measured and what was done to it stays. */
  async retire(id: string, by: string): Promise<string | null> {
    const node = this.o.workshop.get(id)
    if (!node) return 'There is no such node.'
    const login = this.o.logins.ofNode(id)
    const topics = this.o.workshop.slugsOf(id).flatMap((slug) => {
      const { base } = topicsOf(this.o.root, slug)
      const signals = Object.values(node.design.signals).map((s) => s.slug)
      const known = ['status', 'health', 'td', 'config', ...signals].map((leaf) => `${base}/${leaf}`)
      return [...new Set([...known, ...this.o.retainedBelow(`${base}/`)])]
    })
    await retireNode(this.o.db, id, topics, by)
    if (login !== null) {
      await this.o.logins.forgotten(login)
      await this.o.cutOff(login)
    }
    this.o.workshop.leave(id)
    for (const topic of topics) await this.o.clear(topic).catch(() => undefined)
    return null
  }

  async retired(): Promise<Retired[]> {
    return (await retiredRows(this.o.db)).map(({ id, design, retired_at }) => ({
      id,
      name: design.name,
      slug: design.slug,
      at: retired_at.toISOString(),
    }))
  }

  /** It stands in the shop again, without a login: its board needs a new bundle. */
  async bringBack(id: string, by: string): Promise<string | null> {
    const row = (await retiredRows(this.o.db)).find((r) => r.id === id)
    if (!row) return 'There is no such retired node.'
    const { slug } = row.design
    if (this.o.workshop.all().some((n) => n.design.slug === slug))
      return `Another node is called “${slug}” now: rename that one first.`
    await bringBackNode(this.o.db, id, slug, by)
    this.o.workshop.come({ id, design: row.design, seq: row.seq })
    return null
  }

  /** For good, with everything it has measured; `name` has to be its name, typed. */
  async remove(id: string, name: string): Promise<string | null> {
    const row = (await retiredRows(this.o.db)).find((r) => r.id === id)
    if (!row) return 'There is no such retired node.'
    if (row.design.name !== name.trim())
      return `Its name is not “${name.trim()}”: nothing was deleted. Type the name as it stands.`
    await deleteNode(this.o.db, id)
    return null
  }
}

import { randomUUID } from 'node:crypto'
import { z } from 'zod'
import { placeIdFrom } from '../../core/model/placeId'
import { applyShopEdit, type ShopEdit, type ShopEditBody, shopEditWords } from '../../core/shop/edits'
import type { Shop } from '../../core/shop/shop'
import { type Database, DatabaseError } from '../db/database'
import { putSettingStatements, readSetting } from '../db/settingRows'
import {
  areasOfNodes,
  keptShop,
  saveShopEdit,
  shopEditSeq,
  type ShopEditRow,
  shopEditsAfter,
  shopStatement,
} from '../db/shopRows'
import type { LiveStream } from '../live/stream'

export type ShopEditOutcome =
  | { kind: 'saved'; seq: number }
  | { kind: 'behind'; seq: number; missed: ShopEditRow[] }
  | { kind: 'refused'; reason: string; accepts: string }

/** What an earlier release kept as one setting. */
const formerSettings = z.object({
  shop: z.string(),
  places: z.array(z.string()),
  networks: z.array(
    z.object({
      ref: z.string(),
      name: z.string(),
      hidden: z.boolean().default(false),
      band: z.enum(['2.4', '5', 'both']).default('2.4'),
    }),
  ),
  broker: z.unknown(),
})

/** The shop document in memory as the database has it, and the one place where it changes. */
export class ShopDocument {
  private turn: Promise<unknown> = Promise.resolve()
  /** Short names that nodes have. */
  otherSlugs: () => string[] = () => []

  private constructor(
    private readonly db: Database,
    private readonly stream: LiveStream,
    private kept: { document: Shop; seq: number },
    private readonly changed: () => void,
  ) {}

  /** `first`: the document of a shop that has none yet. What an earlier release kept elsewhere is brought along. */
  static async load(db: Database, stream: LiveStream, first: Shop, changed: () => void): Promise<ShopDocument> {
    const kept = (await keptShop(db)) ?? { document: await ShopDocument.begin(db, first), seq: 0 }
    return new ShopDocument(db, stream, kept, changed)
  }

  private static async begin(db: Database, first: Shop): Promise<Shop> {
    const former = await readSetting(db, 'shop', formerSettings)
    const names = [...(former?.places ?? []), ...(await areasOfNodes(db))]
    const places = { ...first.places }
    for (const name of names) {
      const id = placeIdFrom(name)
      if (id !== null && !(id in places)) places[id] = { order: Object.keys(places).length, name: name.trim() }
    }
    const networks = former
      ? Object.fromEntries(
          former.networks.map(({ ref, ...facts }, order) => [ref, { order, timeServer: '', ...facts }]),
        )
      : first.networks
    const document: Shop = { ...first, name: former?.shop ?? first.name, places, networks }
    await db.transaction([
      shopStatement(document),
      ...(former ? putSettingStatements({ shop: null, broker: former.broker }) : []),
    ])
    return document
  }

  get document(): Shop {
    return this.kept.document
  }

  get seq(): number {
    return this.kept.seq
  }

  /** One edit after the other. Saved means the row is in the database. The same edit sent twice is saved once. */
  edit(edit: ShopEdit): Promise<ShopEditOutcome> {
    const done = this.turn.then(() => this.editNow(edit))
    this.turn = done.catch(() => undefined)
    return done
  }

  /** An edit of the product's own, on what stands now. */
  make(body: ShopEditBody, author: string): Promise<ShopEditOutcome> {
    const done = this.turn.then(() =>
      this.editNow({ id: randomUUID(), document: 'shop', base: this.seq, body, author, at: new Date().toISOString() }),
    )
    this.turn = done.catch(() => undefined)
    return done
  }

  /** Id of the place of this name; made when there is none. Null for no name, or for one that may not be. */
  async placeNamed(name: string, author: string): Promise<string | null> {
    const word = name.trim().toLowerCase()
    const found = Object.entries(this.document.places).find(([, p]) => p.name.toLowerCase() === word)
    if (found) return found[0]
    const wanted = placeIdFrom(name)
    if (wanted === null) return null
    let placeId = wanted
    for (let n = 2; placeId in this.document.places; n++) placeId = `${wanted.slice(0, 21)}${n}`
    const made = await this.make({ kind: 'add-place', placeId, name: name.trim() }, author)
    return made.kind === 'saved' ? placeId : null
  }

  private async editNow(edit: ShopEdit): Promise<ShopEditOutcome> {
    const { document, seq } = this.kept
    const already = await shopEditSeq(this.db, edit.id)
    if (already !== null) return { kind: 'saved', seq: already }
    if (edit.base !== seq) return { kind: 'behind', seq, missed: await shopEditsAfter(this.db, edit.base) }
    const applied = applyShopEdit(document, edit.body)
    if (!applied.ok) return { kind: 'refused', reason: applied.reason, accepts: applied.accepts }
    const nodes = new Set(this.otherSlugs())
    const taken = Object.values(applied.value.senders).find((s) => nodes.has(s.slug))
    if (taken)
      return { kind: 'refused', reason: `a node is called “${taken.slug}” already`, accepts: 'another short name' }
    const words = shopEditWords(edit.body, document)
    const saved = await saveShopEdit(this.db, edit, words, applied.value).catch(async (e: unknown) => {
      // An error of the disk or the engine does not say whether the row is there: the row does.
      if ((await shopEditSeq(this.db, edit.id).catch(() => null)) === null) throw e
      return true
    })
    if (!saved) throw new DatabaseError('the shop in the database is not the one in memory', null)
    this.kept = { document: applied.value, seq: seq + 1 }
    const { body, author } = edit
    this.stream.emit({ kind: 'shop-edit', seq: seq + 1, editId: edit.id, body, author })
    this.changed()
    return { kind: 'saved', seq: seq + 1 }
  }
}

import { z } from 'zod'
import { type ShopEdit, shopEditBodySchema } from '../../core/shop/edits'
import { type Shop, shopSchema } from '../../core/shop/shop'
import type { Database } from './database'
import type { Statement } from './protocol'

export async function keptShop(db: Database): Promise<{ document: Shop; seq: number } | null> {
  const row = z.object({ document: z.unknown().transform((json) => shopSchema.parse(json)), seq: z.number() })
  return (await db.query(row, 'select document, seq from shop'))[0] ?? null
}

/** What begins the shop document; written together with what it replaces. */
export const shopStatement = (document: Shop): Statement => ({
  sql: 'insert into shop (document) values ($1)',
  params: [JSON.stringify(document)],
})

/** Names of places that nodes of an earlier release are in. */
export async function areasOfNodes(db: Database): Promise<string[]> {
  const rows = await db.query(
    z.object({ area: z.string() }),
    "select distinct design->>'area' as area from nodes where design ? 'area' order by 1",
  )
  return rows.map((r) => r.area)
}

/** One edit and the document it leads to, in one statement. False when the shop has moved on since `edit.base`. */
export async function saveShopEdit(db: Database, edit: ShopEdit, words: string, document: Shop): Promise<boolean> {
  const rows = await db.query(
    z.object({ seq: z.number() }),
    `
    with moved as (
      update shop set document = $1, seq = seq + 1, changed_at = now() where seq = $2 returning seq
    )
    insert into shop_edits (seq, id, body, words, author, at)
    select moved.seq, $3, $4, $5, $6, $7 from moved returning seq`,
    [JSON.stringify(document), edit.base, edit.id, JSON.stringify(edit.body), words, edit.author, edit.at],
  )
  return rows.length === 1
}

const editRow = z.object({
  seq: z.number(),
  id: z.string(),
  body: shopEditBodySchema,
  words: z.string(),
  author: z.string(),
  at: z.date(),
})
export type ShopEditRow = z.infer<typeof editRow>

export function shopEditsAfter(db: Database, seq: number, most = 500): Promise<ShopEditRow[]> {
  return db.query(
    editRow,
    'select seq, id, body, words, author, at from shop_edits where seq > $1 order by seq limit $2',
    [seq, most],
  )
}

export function latestShopEdits(db: Database, most: number): Promise<ShopEditRow[]> {
  return db.query(editRow, 'select seq, id, body, words, author, at from shop_edits order by seq desc limit $1', [most])
}

export async function shopEditSeq(db: Database, id: string): Promise<number | null> {
  const rows = await db.query(z.object({ seq: z.number() }), 'select seq from shop_edits where id = $1', [id])
  return rows[0]?.seq ?? null
}

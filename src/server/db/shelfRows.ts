import { z } from 'zod'
import type { Board } from '../../core/catalog/board'
import { boardSchema } from '../../core/catalog/board'
import { type PartKind, partKindSchema } from '../../core/catalog/part'
import { renewItem } from '../../core/catalog/renew'
import type { Database } from './database'
import type { Statement } from './protocol'

export async function allShelfItems(db: Database): Promise<{ boards: Board[]; parts: PartKind[] }> {
  const rows = await db.query(
    z.object({ kind: z.enum(['boards', 'parts']), item: z.unknown() }),
    'select kind, item from shelf order by id',
  )
  return {
    boards: rows.flatMap((r) => (r.kind === 'boards' ? [boardSchema.parse(renewItem(r.item))] : [])),
    parts: rows.flatMap((r) => (r.kind === 'parts' ? [partKindSchema.parse(renewItem(r.item))] : [])),
  }
}

/** What puts these items on the shelf; to be written together. */
export function shelfStatements(items: { boards: readonly Board[]; parts: readonly PartKind[] }): Statement[] {
  const put = (kind: 'boards' | 'parts', item: Board | PartKind) => ({
    sql: `insert into shelf (kind, id, version, item) values ($1, $2, $3, $4)
      on conflict (kind, id) do update set version = excluded.version, item = excluded.item, at = now()`,
    params: [kind, item.id, item.version, JSON.stringify(item)],
  })
  return [...items.boards.map((b) => put('boards', b)), ...items.parts.map((p) => put('parts', p))]
}

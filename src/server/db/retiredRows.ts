import { z } from 'zod'
import { renewDesign } from '../../core/model/renew'
import { designSchema } from '../../core/model/design'
import type { Database } from './database'

const retiredRow = z.object({
  id: z.string(),
  design: z.unknown().transform((json) => designSchema.parse(renewDesign(json))),
  seq: z.number(),
  retired_at: z.date(),
})
export type RetiredRow = z.infer<typeof retiredRow>

export const retiredRows = (db: Database): Promise<RetiredRow[]> =>
  db.query(retiredRow, 'select id, design, seq, retired_at from nodes where retired_at is not null order by retired_at')

/** A node leaves: its login and what the broker keeps for it go in the same breath, its history stays. */
export async function retireNode(db: Database, node: string, topics: readonly string[], by: string): Promise<void> {
  await db.transaction([
    { sql: 'update nodes set retired_at = now(), slug = id::text where id = $1', params: [node] },
    { sql: 'delete from logins where node_id = $1', params: [node] },
    { sql: 'delete from retained where topic = any($1::text[])', params: [[...topics]] },
    { sql: 'insert into logbook (node_id, who, what) values ($1, $2, $3)', params: [node, by, 'node retired'] },
  ])
}

export async function bringBackNode(db: Database, node: string, slug: string, by: string): Promise<void> {
  await db.transaction([
    { sql: 'update nodes set retired_at = null, slug = $2 where id = $1', params: [node, slug] },
    { sql: 'insert into logbook (node_id, who, what) values ($1, $2, $3)', params: [node, by, 'node brought back'] },
  ])
}

/** Everything kept of a node, its readings too, for good. */
export async function deleteNode(db: Database, node: string): Promise<void> {
  await db.transaction([
    { sql: 'delete from readings where node_id = $1', params: [node] },
    { sql: 'delete from readings_inbox where node_id = $1', params: [node] },
    { sql: 'delete from nodes where id = $1', params: [node] },
  ])
}

import { z } from 'zod'
import type { Database } from './database'

const row = z.object({ sender_id: z.string(), at: z.date(), by_gateway: z.string(), content: z.string() })
export type BurstRow = z.infer<typeof row>

/** How long what was heard is kept, days, and how much of it is looked at. */
const KEPT_DAYS = 90

export async function putBurst(db: Database, b: { sender: string; atMs: number; by: string; content: string }) {
  await db.query(z.unknown(), 'insert into bursts (sender_id, at, by_gateway, content) values ($1, $2, $3, $4)', [
    b.sender,
    new Date(b.atMs).toISOString(),
    b.by,
    b.content,
  ])
}

/** The last of each sender, the oldest first; what is too old goes. */
export async function lastBursts(db: Database, each: number): Promise<BurstRow[]> {
  await db.query(z.unknown(), `delete from bursts where at < now() - interval '${KEPT_DAYS} days'`, [])
  return db.query(
    row,
    `select sender_id, at, by_gateway, content from (
       select *, row_number() over (partition by sender_id order by at desc) as n from bursts
     ) ranked where n <= $1 order by at`,
    [each],
  )
}

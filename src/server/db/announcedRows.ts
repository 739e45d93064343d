import { z } from 'zod'
import type { Database } from './database'

const row = z.object({ topic: z.string(), template_id: z.string(), node_id: z.string(), payload: z.string() })
export type Announced = z.infer<typeof row>

/** Everything that is, or may be, retained in the form of a template. */
export const allAnnounced = (db: Database): Promise<Announced[]> =>
  db.query(row, 'select topic, template_id, node_id, payload from announced order by topic', [])

/** Before it is published: what has been said has a row, whatever happens in between. */
export async function putAnnounced(db: Database, rows: readonly Announced[]): Promise<void> {
  if (rows.length === 0) return
  await db.transaction([
    {
      sql: `insert into announced (topic, template_id, node_id, payload)
        select * from unnest($1::text[], $2::text[], $3::uuid[], $4::text[])
        on conflict (topic) do update set template_id = excluded.template_id, node_id = excluded.node_id, payload = excluded.payload`,
      params: [
        rows.map((r) => r.topic),
        rows.map((r) => r.template_id),
        rows.map((r) => r.node_id),
        rows.map((r) => r.payload),
      ],
    },
  ])
}

/** After it has been cleared at the broker. */
export async function dropAnnounced(db: Database, topics: readonly string[]): Promise<void> {
  if (topics.length > 0)
    await db.transaction([{ sql: 'delete from announced where topic = any($1::text[])', params: [topics] }])
}

import { z } from 'zod'
import type { Database } from './database'

const retainedRow = z.object({ topic: z.string(), payload: z.custom<Uint8Array>((v) => v instanceof Uint8Array), qos: z.union([z.literal(0), z.literal(1), z.literal(2)]) })
export type RetainedRow = z.infer<typeof retainedRow>

export function allRetained(db: Database): Promise<RetainedRow[]> {
  return db.query(retainedRow, 'select topic, payload, qos from retained order by topic')
}

/** Readings of one signal, in order of arrival: names are said once, not for every row. */
export interface ReadingBatch { node: string; signal: string; ms: number[]; numbers: (number | null)[]; /** Absent while none is a word. */ words: (string | null)[] | null }

export function addReading(batch: ReadingBatch, ms: number, number: number | null, word: string | null): void {
  batch.ms.push(ms)
  batch.numbers.push(number)
  if (word !== null) batch.words ??= batch.ms.slice(1).map(() => null)
  batch.words?.push(word)
}

/** Retained messages and readings gathered since the last call, all or nothing. An empty payload clears its topic. */
export async function saveMessages(db: Database, retained: RetainedRow[], readings: readonly ReadingBatch[]): Promise<void> {
  const kept = retained.filter((r) => r.payload.length > 0)
  const cleared = retained.filter((r) => r.payload.length === 0).map((r) => r.topic)
  await db.transaction([
    ...(kept.length > 0 ? [{
      sql: `insert into retained (topic, payload, qos) select * from unnest($1::text[], $2::bytea[], $3::smallint[])
        on conflict (topic) do update set payload = excluded.payload, qos = excluded.qos, at = now()`,
      params: [kept.map((r) => r.topic), kept.map((r) => r.payload), kept.map((r) => r.qos)],
    }] : []),
    ...(cleared.length > 0 ? [{ sql: 'delete from retained where topic = any($1::text[])', params: [cleared] }] : []),
    ...readings.map(({ node, signal, ms, numbers, words }) => ({
      sql: 'insert into readings_inbox (node_id, signal_id, ms, numbers, words) values ($1, $2, $3, $4, $5)',
      params: [node, signal, ms, numbers, words],
    })),
  ])
}

/** Batches that are spread at once: while little comes in, all of a second; a few thousand rows after a rush. */
const SPREAD_AT_ONCE = 16

/**
 * Spreads waiting batches into rows, oldest first, all or nothing; true while more may wait. A batch of a node that has been removed goes with it.
 * Whatever reads `readings` calls this first, until nothing waits.
 */
export async function spreadInbox(db: Database, most = SPREAD_AT_ONCE): Promise<boolean> {
  const [row] = await db.query(z.object({ n: z.number() }), `
    with taken as (
      delete from readings_inbox where id in (select id from readings_inbox order by id limit $1) returning *
    ), spread as (
      insert into readings (node_id, signal_id, at, number, word)
      select t.node_id, t.signal_id, to_timestamp(r.ms / 1000), r.number, r.word from (select * from taken order by id) t
        join nodes on nodes.id = t.node_id, unnest(t.ms, t.numbers, t.words) with ordinality r (ms, number, word, place)
      order by t.id, r.place
    )
    select count(*)::int as n from taken`, [most])
  return (row?.n ?? 0) === most
}

/** Everything that has come in is in `readings` when this is kept. */
export async function spreadAll(db: Database): Promise<void> {
  while (await spreadInbox(db, 64)) { /* more waits */ }
}

const point = z.object({ at: z.date(), number: z.number().nullable(), word: z.string().nullable() })

export async function readingsSince(db: Database, node: string, signal: string, seconds: number, most = 2000) {
  await spreadAll(db)
  return db.query(point, `select at, number, word from (
      select id, at, number, word from readings where node_id = $1 and signal_id = $2 and at > now() - make_interval(secs => $3) order by at desc, id desc limit $4
    ) recent order by at, id`, [node, signal, seconds, most])
}

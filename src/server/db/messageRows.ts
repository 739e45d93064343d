import { z } from 'zod'
import { type Database, DatabaseError } from './database'
import type { Statement } from './protocol'

const retainedRow = z.object({
  topic: z.string(),
  payload: z.custom<Uint8Array>((v) => v instanceof Uint8Array),
  qos: z.union([z.literal(0), z.literal(1), z.literal(2)]),
})
export type RetainedRow = z.infer<typeof retainedRow>

/** Only these topics have a retained message. */
export async function keepRetained(db: Database, topics: readonly string[]): Promise<void> {
  await db.run('delete from retained where not topic = any($1::text[])', [[...topics]])
}

export function allRetained(db: Database): Promise<RetainedRow[]> {
  return db.query(retainedRow, 'select topic, payload, qos from retained order by topic')
}

/** Readings of one signal, in order of arrival: names are said once, not for every row. */
export interface ReadingBatch {
  node: string
  signal: string
  ms: number[]
  numbers: (number | null)[]
  /** Absent while none is a word. */ words: (string | null)[] | null
}

export function addReading(batch: ReadingBatch, ms: number, number: number | null, word: string | null): void {
  batch.ms.push(ms)
  batch.numbers.push(number)
  if (word !== null) batch.words ??= batch.ms.slice(1).map(() => null)
  batch.words?.push(word)
}

/**
 * Retained messages and readings gathered since the last call and what is written beside them, all or nothing. An empty
 * payload clears its topic.
 */
export async function saveMessages(
  db: Database,
  retained: RetainedRow[],
  readings: readonly ReadingBatch[],
  beside: Statement[] = [],
): Promise<void> {
  const kept = retained.filter((r) => r.payload.length > 0)
  const cleared = retained.filter((r) => r.payload.length === 0).map((r) => r.topic)
  await db.transaction([
    ...(kept.length > 0
      ? [
          {
            sql: `insert into retained (topic, payload, qos) select * from unnest($1::text[], $2::bytea[], $3::smallint[])
        on conflict (topic) do update set payload = excluded.payload, qos = excluded.qos, at = now()`,
            params: [kept.map((r) => r.topic), kept.map((r) => r.payload), kept.map((r) => r.qos)],
          },
        ]
      : []),
    ...(cleared.length > 0 ? [{ sql: 'delete from retained where topic = any($1::text[])', params: [cleared] }] : []),
    ...readings.flatMap(inPortions).map(({ node, signal, ms, numbers, words }) => ({
      sql: 'insert into readings_inbox (node_id, signal_id, places, ms, numbers, words) values ($1, $2, $3, $4, $5, $6)',
      params: [node, signal, ms.length, fromFirst(ms), numbers.join(','), words],
    })),
    ...beside,
  ])
}

/** A row the database would not take, whatever else it takes: set aside, so that nobody waits behind it. */
export interface SetAside {
  what: string
  why: string
}

export interface Stored {
  aside: SetAside[]
  /** What is not stored yet, and why; null when everything is, but for what was set aside. */
  left: { retained: RetainedRow[]; readings: ReadingBatch[]; error: Error } | null
}

/** Data the database refuses for what it is (class 22 and 23 of SQLSTATE), not for the state it is in. */
const isBadData = (e: unknown): boolean => e instanceof DatabaseError && /^2[23]/.test(e.code ?? '')

/**
 * Stores what has gathered. When the database refuses it for what is in it, it is divided until the one bad row stands
 * alone, and that is set aside; the rest is stored. When the database is in trouble itself, what is left is given back
 * whole.
 */
export async function storeMessages(
  db: Database,
  retained: RetainedRow[],
  readings: readonly ReadingBatch[],
  beside: Statement[] = [],
): Promise<Stored> {
  const aside: SetAside[] = []
  const pieces: { retained: RetainedRow[]; readings: readonly ReadingBatch[] }[] = [{ retained, readings }]
  for (let piece = pieces.shift(); piece; piece = pieces.shift()) {
    try {
      // What is written beside the rows says that all of them are there: it goes with the last.
      await saveMessages(db, piece.retained, piece.readings, pieces.length === 0 ? beside : [])
    } catch (e) {
      const error = e instanceof Error ? e : new Error(String(e))
      const rest = [piece, ...pieces]
      if (!isBadData(e))
        return {
          aside,
          left: { retained: rest.flatMap((p) => p.retained), readings: rest.flatMap((p) => p.readings), error },
        }
      const [first, second] = halves(piece)
      if (second) pieces.unshift(first, second)
      else
        aside.push({
          what: piece.retained[0]?.topic ?? `${piece.readings[0]?.node ?? ''} ${piece.readings[0]?.signal ?? ''}`,
          why: error.message,
        })
    }
  }
  return { aside, left: null }
}

type Piece = { retained: RetainedRow[]; readings: readonly ReadingBatch[] }

/** Two halves of what may not be stored together; the whole alone when it is one row. */
function halves(piece: Piece): [Piece, Piece | null] {
  const { retained, readings } = piece
  if (retained.length + readings.length > 1) {
    const n = Math.ceil((retained.length + readings.length) / 2)
    const r = Math.min(n, retained.length)
    return [
      { retained: retained.slice(0, r), readings: readings.slice(0, n - r) },
      { retained: retained.slice(r), readings: readings.slice(n - r) },
    ]
  }
  const [batch] = readings
  if (!batch || batch.ms.length < 2) return [piece, null]
  const at = batch.ms.length >> 1
  const part = (from: number, to?: number): Piece => ({
    retained: [],
    readings: [
      {
        ...batch,
        ms: batch.ms.slice(from, to),
        numbers: batch.numbers.slice(from, to),
        words: batch.words && batch.words.slice(from, to),
      },
    ],
  })
  return [part(0, at), part(at)]
}

/** Moments as the first and what each is after it, `first+0,0,1,…`: a fifth of the text. */
function fromFirst(ms: readonly number[]): string {
  const [first = 0] = ms
  let text = `${first}+0`
  for (let i = 1; i < ms.length; i++) text += `,${(ms[i] ?? first) - first}`
  return text
}

/** Rows that are spread at once, and the most one batch has: some hundredths of a second of the database’s time. */
const PORTION = 2000

function inPortions(batch: ReadingBatch): ReadingBatch[] {
  if (batch.ms.length <= PORTION) return [batch]
  return Array.from({ length: Math.ceil(batch.ms.length / PORTION) }, (_, i) => {
    const part = <T>(list: T[]) => list.slice(i * PORTION, (i + 1) * PORTION)
    return { ...batch, ms: part(batch.ms), numbers: part(batch.numbers), words: batch.words && part(batch.words) }
  })
}

/**
 * Spreads waiting batches into rows, oldest first, all or nothing; true while more may wait. A batch of a node that has
 * been removed goes with it. Whatever reads `readings` calls this first, until nothing waits.
 */
export async function spreadInbox(db: Database): Promise<boolean> {
  const [row] = await db.query(
    z.object({ more: z.boolean() }),
    `
    with taken as (
      delete from readings_inbox where id in (
        select id from (select id, sum(places) over (order by id) - places as before from (select id, places from readings_inbox order by id limit 500) oldest) summed where before < $1
      ) returning *
    ), spread as (
      insert into readings (node_id, signal_id, at, number, word)
      select t.node_id, t.signal_id, to_timestamp((split_part(t.ms, '+', 1)::float8 + r.after) / 1000), r.number, r.word from (select * from taken order by id) t
        join nodes on nodes.id = t.node_id,
        unnest(string_to_array(split_part(t.ms, '+', 2), ',')::float8[], string_to_array(t.numbers, ',', '')::float8[], t.words) with ordinality r (after, number, word, place)
      order by t.id, r.place
    )
    select exists (select 1 from readings_inbox i where not exists (select 1 from taken t where t.id = i.id)) as more from (select count(*) from taken) counted`,
    [PORTION],
  )
  return row?.more ?? false
}

/** Everything that has come in is in `readings` when this is kept. */
export async function spreadAll(db: Database): Promise<void> {
  while (await spreadInbox(db)) {
    /* more waits */
  }
}

const point = z.object({ at: z.date(), number: z.number().nullable(), word: z.string().nullable() })

export async function readingsSince(db: Database, node: string, signal: string, seconds: number, most = 2000) {
  await spreadAll(db)
  return db.query(
    point,
    `select at, number, word from (
      select id, at, number, word from readings where node_id = $1 and signal_id = $2 and ahead is null and at <= now() + interval '5 minutes' and at > now() - make_interval(secs => $3) order by at desc, id desc limit $4
    ) recent order by at, id`,
    [node, signal, seconds, most],
  )
}

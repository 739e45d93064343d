import type { Held } from '../../wire/protocol'
import { z } from 'zod'
import type { Database } from './database'

/** How long each grain is kept, days. */
export const KEEP_DAYS = { raw: 14, minute: 366 } as const

/** Rows that may go without asking, whatever is usual here. */
const FEW = 20_000
/** A reading this far after the present moment bears a wrong time, s. */
const AHEAD_S = 300

export interface Cleared {
  removed: number
  marked: number
  held: Held | null
}

const count = z.object({ n: z.number() })

/**
 * Removes readings that are older than they are kept. What is old goes by the order rows came in: all that came before
 * the first that is young enough. When that is much more than a day's usual amount nothing goes until `confirmed`: a
 * clock that jumped must not empty the house.
 */
export async function clearOld(db: Database, now: Date, confirmed = false): Promise<Cleared> {
  const at = now.toISOString()
  const marked = await markAhead(db, at)
  const before = new Date(now.getTime() - KEEP_DAYS.raw * 86_400_000).toISOString()
  const first = await firstSince(db, before)
  const old = `at < $1::timestamptz and ($2::bigint is null or id < $2::bigint)`
  const n = (await db.query(count, `select count(*)::int as n from readings where ${old}`, [before, first]))[0]?.n ?? 0
  const usualADay = n > FEW ? await usual(db) : 0
  if (n > Math.max(FEW, 2 * usualADay) && !confirmed)
    return { removed: 0, marked, held: { rows: n, usualADay, before } }
  await db.transaction([
    ...(n > 0 ? [{ sql: `delete from readings where ${old}`, params: [before, first] }] : []),
    {
      // What is summed to minutes goes only as fast as a day's rows a day, or with leave.
      sql: `delete from readings_minute where at < $1::timestamptz - make_interval(days => ${KEEP_DAYS.minute})
        and ($2 or (select count(*) from readings_minute where at < $1::timestamptz - make_interval(days => ${KEEP_DAYS.minute})) <= ${FEW})`,
      params: [at, confirmed],
    },
  ])
  return { removed: n, marked, held: null }
}

/** Marks rows that bear a time still to come, unless they are so many that the clock of now is the wrong one. */
async function markAhead(db: Database, at: string): Promise<number> {
  const ahead = `ahead is null and at > $1::timestamptz + make_interval(secs => ${AHEAD_S})`
  const n = await number(db, `select count(*)::int as n from readings where ${ahead}`, at)
  if (n === 0) return 0
  const behind = await number(
    db,
    `select count(*)::int as n from readings where ahead is null and at <= $1::timestamptz`,
    at,
  )
  if (n > behind) return 0
  await db.run(`update readings set ahead = true where ${ahead}`, [at])
  return n
}

/**
 * Place in the order of arrival of the first row from `since` on; null when there is none. Looked for in the hour after
 * it first.
 */
async function firstSince(db: Database, since: string): Promise<number | null> {
  const row = z.object({ id: z.number().nullable() })
  const sql = 'select min(id)::float8 as id from readings where ahead is null and at >= $1::timestamptz'
  const [near] = await db.query(row, `${sql} and at < $1::timestamptz + interval '1 hour'`, [since])
  if (near && near.id !== null) return near.id
  return (await db.query(row, sql, [since]))[0]?.id ?? null
}

const number = async (db: Database, sql: string, at: string) => (await db.query(count, sql, [at]))[0]?.n ?? 0

/** Messages of a usual day, as the sums of the last weeks have them. */
async function usual(db: Database): Promise<number> {
  const [row] = await db.query(
    z.object({ n: z.number(), days: z.number() }),
    `select coalesce(sum(total), 0)::int as n, count(distinct date_trunc('day', at))::int as days from readings_hour
      where at > (select max(at) from readings_hour) - interval '14 days'`,
  )
  return row ? Math.ceil(row.n / Math.max(1, row.days)) : 0
}

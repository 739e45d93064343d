import { z } from 'zod'
import { type Database, DatabaseError } from './database'
import { spreadAll } from './messageRows'
import type { Statement } from './protocol'

/**
 * Sums up what is complete up to `now`: raw rows to minutes, minutes to hours. One transaction; running it twice
 * changes nothing.
 */
export async function rollUp(db: Database, now: Date): Promise<BadSignal[]> {
  await spreadAll(db)
  const at = now.toISOString()
  // A clock that was ahead must not keep what follows from being summed: all that raw rows are still whole for is
  // summed again.
  await db.run("update rolled_up set until = $1::timestamptz - interval '13 days' where until > $1::timestamptz", [at])
  try {
    await db.transaction([...sums(at), ...steps(at)])
    return []
  } catch (e) {
    if (!(e instanceof DatabaseError)) throw e
    return one(db, at)
  }
}

/** A signal whose readings cannot be summed; the others have been. */
export interface BadSignal {
  node: string
  signal: string
  why: string
}

/** When the whole does not go, each signal by itself: one that cannot be summed is told and passed over. */
async function one(db: Database, at: string): Promise<BadSignal[]> {
  const pair = z.object({ node_id: z.string(), signal_id: z.string() })
  const signals = await db.query(
    pair,
    `select distinct node_id, signal_id from readings where node_id in (select id from nodes)`,
  )
  const bad: BadSignal[] = []
  for (const { node_id: node, signal_id: signal } of signals) {
    try {
      await db.transaction(sums(at, { node, signal }))
    } catch (e) {
      bad.push({ node, signal, why: e instanceof Error ? e.message : String(e) })
    }
  }
  await db.transaction(steps(at))
  return bad
}

const SANE = 'filter (where abs(number) < 1e150)'

function sums(at: string, only?: { node: string; signal: string }): Statement[] {
  const which = only ? ' and node_id = $2 and signal_id = $3' : ''
  const params = only ? [at, only.node, only.signal] : [at]
  const into = `(node_id, signal_id, at, n, total, low, mean, high)`
  const again = `on conflict (node_id, signal_id, at) do update
    set n = excluded.n, total = excluded.total, low = excluded.low, mean = excluded.mean, high = excluded.high`
  return [
    {
      sql: `insert into readings_minute ${into}
        select node_id, signal_id, date_trunc('minute', at), count(number), count(*), min(number), avg(number) ${SANE}, max(number)
        from readings where ahead is null and node_id in (select id from nodes)${which}
          and at >= (select until from rolled_up where step = 'minute') and at < date_trunc('minute', $1::timestamptz)
        group by 1, 2, 3 ${again}`,
      params,
    },
    {
      sql: `insert into readings_hour ${into}
        select node_id, signal_id, date_trunc('hour', at), sum(n), sum(total), min(low),
          sum(mean * n) filter (where abs(mean) < 1e150) / nullif(sum(n), 0), max(high)
        from readings_minute where node_id in (select id from nodes)${which}
          and at >= (select until from rolled_up where step = 'hour') and at < date_trunc('hour', $1::timestamptz)
        group by 1, 2, 3 ${again}`,
      params,
    },
  ]
}

const steps = (at: string): Statement[] =>
  ['minute', 'hour'].map((step) => ({
    sql: `update rolled_up set until = date_trunc($2, $1::timestamptz) where step = $2`,
    params: [at, step],
  }))

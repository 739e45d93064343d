import type { Database } from './database'
import { spreadAll } from './messageRows'

/** How long each grain is kept, days. */
export const KEEP_DAYS = { raw: 14, minute: 366 } as const

/**
 * Sums up what is complete up to `now`: raw rows to minutes, minutes to hours; then drops what is older than it is kept.
 * One transaction: an interrupted run leaves nothing half summed. Running it twice changes nothing.
 */
export async function rollUp(db: Database, now: Date): Promise<void> {
  await spreadAll(db)
  const at = now.toISOString()
  await db.transaction([
    {
      sql: `insert into readings_minute (node_id, signal_id, at, n, total, low, mean, high)
        select node_id, signal_id, date_trunc('minute', at), count(number), count(*), min(number), avg(number) filter (where abs(number) < 1e150), max(number) from readings
        where at >= (select until from rolled_up where step = 'minute') and at < date_trunc('minute', $1::timestamptz) group by 1, 2, 3
        on conflict (node_id, signal_id, at) do update set n = excluded.n, total = excluded.total, low = excluded.low, mean = excluded.mean, high = excluded.high`,
      params: [at],
    },
    { sql: `update rolled_up set until = date_trunc('minute', $1::timestamptz) where step = 'minute'`, params: [at] },
    {
      sql: `insert into readings_hour (node_id, signal_id, at, n, total, low, mean, high)
        select node_id, signal_id, date_trunc('hour', at), sum(n), sum(total), min(low), sum(mean * n) filter (where abs(mean) < 1e150) / nullif(sum(n), 0), max(high) from readings_minute
        where at >= (select until from rolled_up where step = 'hour') and at < date_trunc('hour', $1::timestamptz) group by 1, 2, 3
        on conflict (node_id, signal_id, at) do update set n = excluded.n, total = excluded.total, low = excluded.low, mean = excluded.mean, high = excluded.high`,
      params: [at],
    },
    { sql: `update rolled_up set until = date_trunc('hour', $1::timestamptz) where step = 'hour'`, params: [at] },
    { sql: 'delete from readings where at < $1::timestamptz - make_interval(days => $2)', params: [at, KEEP_DAYS.raw] },
    {
      sql: 'delete from readings_minute where at < $1::timestamptz - make_interval(days => $2)',
      params: [at, KEEP_DAYS.minute],
    },
  ])
}

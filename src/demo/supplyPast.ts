import { voltageAt } from '../core/energy/chemistries'
import type { Cycle } from '../core/energy/cycle'
import { likelyOf, meanA } from '../core/energy/life'
import type { Database } from '../server/db/database'

const DAYS = 182
const HOUR_MS = 3_600_000
/** What somebody would find: a cell that drains faster than its design says. */
const TIMES = 2.6
/** Charged to here when it has fallen to there, and where it is now: what a stand-in without a cell of its own says. */
const FULL = 0.97
const CHARGED_AT = 0.12
const NOW = 0.66

/**
 * Half a year of made-up hours for a node on a cell: its voltage, at another drain than designed, and a temperature that
 * follows the season. The same start, the same past.
 */
export async function putSupplyPast(
  db: Database,
  node: string,
  cycle: Cycle,
  { volts, temperature }: { volts: string; temperature: string | null },
  nowMs: number,
): Promise<void> {
  const { facts, series, capacityAh } = cycle.cell
  const x = likelyOf(cycle)
  const aDay = ((meanA(cycle, x) + cycle.selfA(x)) * TIMES * 24) / capacityAh
  const first = Math.floor(nowMs / HOUR_MS) * HOUR_MS - DAYS * 24 * HOUR_MS
  const rows: { signal: string; at: string; mean: number }[] = []
  for (let h = 0; h < DAYS * 24; h++) {
    const day = h / 24
    const warm = 14 + 6 * Math.cos((2 * Math.PI * (day - 40)) / 365) + 1.5 * Math.sin((2 * Math.PI * h) / 24)
    // The converter's scatter, the same each time.
    const scatter = 0.004 * Math.sin(h * 12.9898 + 78.233)
    // Back from now: where it would stand above full it had been charged.
    const fell = (DAYS - day) * aDay - (FULL - NOW)
    const share = fell <= 0 ? FULL + fell : CHARGED_AT + (fell % (FULL - CHARGED_AT))
    const at = new Date(first + h * HOUR_MS).toISOString()
    rows.push({ signal: volts, at, mean: voltageAt(facts.curve, share) * series + 0.001 * (warm - 20) + scatter })
    if (temperature !== null) rows.push({ signal: temperature, at, mean: warm })
  }
  await db.run(
    `insert into readings_hour (node_id, signal_id, at, n, total, low, mean, high)
     select $1, r.signal, r.at, 6, 6, r.mean, r.mean, r.mean
     from jsonb_to_recordset($2::jsonb) as r(signal text, at timestamptz, mean float8)
     on conflict do nothing`,
    [node, JSON.stringify(rows)],
  )
}

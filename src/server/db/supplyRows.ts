import { z } from 'zod'
import type { SupplyPoint } from '../../core/energy/inService'
import type { Database } from './database'
import { spreadAll } from './messageRows'

/** So many points say as much as all of them. */
const MOST = 1000

const row = z.object({ at_s: z.number(), volts: z.number(), temp: z.number().nullable() })

/**
 * Hourly means of a signal that tells a voltage, V, oldest first, and of the temperature beside it, °C; what has come in
 * since the last full hour is in it as one more.
 */
export async function supplyHistory(
  db: Database,
  node: string,
  { volts, temperature }: { volts: string; temperature: string | null },
): Promise<SupplyPoint[]> {
  await spreadAll(db)
  const rows = await db.query(
    row,
    `with told as (
      select signal_id, at, mean from readings_hour where node_id = $1 and signal_id in ($2, $3) and mean is not null
      union all
      select signal_id, date_trunc('hour', at), avg(number) from readings
        where node_id = $1 and signal_id in ($2, $3) and number is not null and ahead is null
          and at >= coalesce((select until from rolled_up where step = 'hour'), '-infinity')
        group by 1, 2
    ), hours as (
      select at, avg(mean) filter (where signal_id = $2) as volts, avg(mean) filter (where signal_id = $3) as temp
      from told group by at
    ), numbered as (
      select *, row_number() over (order by at) as n, count(*) over () as total from hours where volts is not null
    )
    select extract(epoch from at)::float8 as at_s, volts, temp from numbered
    where n % greatest(1, ceil(total / $4::float8)::int) = 0 or n = total order by at`,
    [node, volts, temperature ?? '', MOST],
  )
  return rows.map((r) => ({ atS: r.at_s, volts: r.volts, tempC: r.temp ?? undefined }))
}

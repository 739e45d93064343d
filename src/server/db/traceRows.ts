import { z } from 'zod'
import { type Mark, markSchema, type Trace } from '../../core/trace/trace'
import type { Database } from './database'

const listed = z.object({
  id: z.string(),
  signal_id: z.string(),
  name: z.string(),
  unit: z.string(),
  source: z.enum(['close', 'readings', 'import']),
  at: z.date(),
  n: z.number(),
  marks: z.array(markSchema),
})
export type TraceListed = z.infer<typeof listed>

const COLUMNS = 'id, signal_id, name, unit, source, at, octet_length(samples) / 16 as n, marks'

/** Traces of a node without their samples, newest first. */
export function tracesOf(db: Database, node: string): Promise<TraceListed[]> {
  return db.query(listed, `select ${COLUMNS} from traces where node_id = $1 order by at desc, id`, [node])
}

export async function traceOf(db: Database, node: string, id: string): Promise<(Trace & { signal: string }) | null> {
  // As base64 both ways: the hexadecimal of the protocol takes ten times as long.
  const whole = listed.extend({ samples: z.string() })
  const [row] = await db.query(
    whole,
    `select ${COLUMNS}, encode(samples, 'base64') as samples from traces where node_id = $1 and id = $2`,
    [node, id],
  )
  if (!row) return null
  const bytes = Buffer.from(row.samples, 'base64')
  const all = new Float64Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length))
  const n = all.length / 2
  return {
    signal: row.signal_id,
    name: row.name,
    at: row.at.toISOString(),
    unit: row.unit,
    source: row.source,
    s: Array.from(all.subarray(0, n)),
    value: Array.from(all.subarray(n), (v) => (Number.isNaN(v) ? null : v)),
    marks: row.marks,
  }
}

/** Keeps a trace; one of the same id is put in its place. */
export async function keepTrace(db: Database, node: string, signal: string, id: string, t: Trace): Promise<void> {
  const samples = Float64Array.from([...t.s, ...t.value.map((v) => v ?? NaN)])
  await db.run(
    `insert into traces (id, node_id, signal_id, name, unit, source, at, samples, marks)
     values ($1, $2, $3, $4, $5, $6, $7, decode($8, 'base64'), $9)
     on conflict (id) do update set name = excluded.name, at = excluded.at, samples = excluded.samples, marks = excluded.marks
     where traces.node_id = excluded.node_id`,
    [
      id,
      node,
      signal,
      t.name,
      t.unit,
      t.source,
      t.at,
      Buffer.from(samples.buffer).toString('base64'),
      JSON.stringify(t.marks),
    ],
  )
}

export async function changeTrace(
  db: Database,
  node: string,
  id: string,
  { name, marks }: { name?: string; marks?: readonly Mark[] },
): Promise<void> {
  await db.run(
    'update traces set name = coalesce($3, name), marks = coalesce($4::jsonb, marks) where node_id = $1 and id = $2',
    [node, id, name ?? null, marks === undefined ? null : JSON.stringify(marks)],
  )
}

export async function dropTrace(db: Database, node: string, id: string): Promise<void> {
  await db.run('delete from traces where node_id = $1 and id = $2', [node, id])
}

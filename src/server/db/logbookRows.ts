import { z } from 'zod'
import type { Database } from './database'

const acknowledgementRow = z.object({ node_id: z.string(), finding: z.string(), name: z.string(), at: z.date() })

export function allAcknowledgements(db: Database) {
  return db.query(acknowledgementRow, 'select node_id, finding, name, at from acknowledgements')
}

/** Puts a name to a caution and a line into the logbook, together. */
export async function acknowledge(
  db: Database,
  node: string,
  finding: string,
  name: string,
  title: string,
): Promise<void> {
  await db.transaction([
    {
      sql: 'insert into acknowledgements (node_id, finding, name) values ($1, $2, $3) on conflict (node_id, finding) do nothing',
      params: [node, finding, name],
    },
    {
      sql: 'insert into logbook (node_id, who, what) values ($1, $2, $3)',
      params: [node, name, `caution acknowledged: ${title}`],
    },
  ])
}

export async function log(db: Database, node: string, who: string, what: string): Promise<void> {
  await db.run('insert into logbook (node_id, who, what) values ($1, $2, $3)', [node, who, what])
}

const measurementRow = z.object({
  place: z.string(),
  value: z.number(),
  unit: z.enum(['V', 'Ω']),
  ok: z.boolean(),
  who: z.string(),
  at: z.date(),
})
export type MeasurementRow = z.infer<typeof measurementRow>

/** The last reading of every place of a node. */
export function lastMeasurements(db: Database, node: string): Promise<MeasurementRow[]> {
  return db.query(
    measurementRow,
    `select distinct on (place) place, value, unit, ok, who, at from measurements where node_id = $1 and unit in ('V', 'Ω') and value is not null order by place, id desc`,
    [node],
  )
}

export async function insertMeasurement(
  db: Database,
  node: string,
  m: Omit<MeasurementRow, 'at'>,
  words: string,
): Promise<void> {
  await db.transaction([
    {
      sql: 'insert into measurements (node_id, place, value, unit, ok, who) values ($1, $2, $3, $4, $5, $6)',
      params: [node, m.place, m.value, m.unit, m.ok, m.who],
    },
    { sql: 'insert into logbook (node_id, who, what) values ($1, $2, $3)', params: [node, m.who, words] },
  ])
}

/** Lines of a node's logbook, newest first. */
export function latestLog(db: Database, node: string, most: number) {
  return db.query(
    z.object({ at: z.date(), who: z.string(), what: z.string() }),
    'select at, who, what from logbook where node_id = $1 order by id desc limit $2',
    [node, most],
  )
}

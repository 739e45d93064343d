import { z } from 'zod'
import type { Database } from './database'

/** A part as its calibrations know it: what it is, which of its channels, and its own address where it has one. */
export interface CalibratedPart {
  kind: string
  channel: string
  rom: string | null
}
export interface CalibrationRecord {
  id: string
  node: string
  signal: string
  initials: string
  reference: string
  pairs: unknown
  fit: unknown
  part: CalibratedPart
}

/** Keeps what a calibration, or a check of one, rests on, and a line in the logbook, together. */
export async function insertCalibration(db: Database, r: CalibrationRecord, words: string): Promise<void> {
  const { kind, channel, rom } = r.part
  await db.transaction([
    {
      sql: 'insert into calibrations (id, node_id, signal_id, initials, reference, pairs, fit, part_kind, channel, rom) values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)',
      params: [
        r.id,
        r.node,
        r.signal,
        r.initials,
        r.reference,
        JSON.stringify(r.pairs),
        JSON.stringify(r.fit),
        kind,
        channel,
        rom,
      ],
    },
    { sql: 'insert into logbook (node_id, who, what) values ($1, $2, $3)', params: [r.node, r.initials, words] },
  ])
}

const row = z.object({
  id: z.string(),
  node_id: z.string(),
  signal_id: z.string(),
  at: z.date(),
  initials: z.string(),
  reference: z.string(),
  points: z.number(),
  fit: z.record(z.string(), z.unknown()),
  rom: z.string().nullable(),
})
export type CalibrationRow = z.infer<typeof row>

/** Calibrations of this signal and of parts of its kind on any node, newest first. */
export function calibrationsOf(
  db: Database,
  { node, signal, part }: Pick<CalibrationRecord, 'node' | 'signal' | 'part'>,
): Promise<CalibrationRow[]> {
  return db.query(
    row,
    `select id, node_id, signal_id, at, initials, reference, jsonb_array_length(pairs) as points, fit, rom from calibrations
     where (node_id = $1 and signal_id = $2) or (part_kind = $3 and channel = $4) order by at desc limit 200`,
    [node, signal, part.kind, part.channel],
  )
}

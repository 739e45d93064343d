import { z } from 'zod'
import { type Proof, reportSchema } from '../../wire/proof'
import type { Database } from './database'

/** So many runs of a node, or of all, are kept. */
const KEPT = 50

const row = z.object({
  id: z.coerce.number(),
  began_at: z.date(),
  ended_at: z.date(),
  by_clock: z.boolean(),
  node_id: z.string().nullable(),
  report: reportSchema,
})
const proofOf = (r: z.infer<typeof row>): Proof => ({
  id: r.id,
  began: r.began_at.toISOString(),
  ended: r.ended_at.toISOString(),
  byClock: r.by_clock,
  node: r.node_id,
  report: r.report,
})
const COLUMNS = 'id, began_at, ended_at, by_clock, node_id, report'

/** Keeps a run, and lets go of the oldest ones of the same node. */
export async function insertProof(db: Database, proof: Omit<Proof, 'id' | 'ended'>): Promise<void> {
  await db.transaction([
    {
      sql: 'insert into proofs (began_at, by_clock, node_id, report) values ($1, $2, $3, $4)',
      params: [proof.began, proof.byClock, proof.node, JSON.stringify(proof.report)],
    },
    {
      sql: `delete from proofs where node_id is not distinct from $1 and id not in
        (select id from proofs where node_id is not distinct from $1 order by began_at desc limit $2)`,
      params: [proof.node, KEPT],
    },
  ])
}

/** Runs of a node, or of all with null, newest first. */
export async function proofsOf(db: Database, node: string | null, most: number): Promise<Proof[]> {
  const rows = await db.query(
    row,
    `select ${COLUMNS} from proofs where node_id is not distinct from $1 order by began_at desc limit $2`,
    [node, most],
  )
  return rows.map(proofOf)
}

export async function proofById(db: Database, id: number): Promise<Proof | null> {
  const [found] = await db.query(row, `select ${COLUMNS} from proofs where id = $1`, [id])
  return found ? proofOf(found) : null
}

/** When the clock last had one done; null: never. */
export async function lastByClock(db: Database): Promise<Date | null> {
  const [found] = await db.query(
    z.object({ at: z.date().nullable() }),
    'select max(began_at) as at from proofs where by_clock',
    [],
  )
  return found?.at ?? null
}

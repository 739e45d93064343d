import { z } from 'zod'
import type { Database } from './database'

const credentialRow = z.object({
  ref: z.string(),
  version: z.number(),
  network: z.string(),
  sealed: z.string(),
  at: z.date(),
})
export type CredentialRow = z.infer<typeof credentialRow>

/** The latest password of every network. */
export function latestCredentials(db: Database): Promise<CredentialRow[]> {
  return db.query(
    credentialRow,
    'select distinct on (ref) ref, version, network, sealed, at from credentials order by ref, version desc',
  )
}

export async function insertCredential(
  db: Database,
  ref: string,
  version: number,
  network: string,
  sealed: string,
): Promise<void> {
  await db.run('insert into credentials (ref, version, network, sealed) values ($1, $2, $3, $4)', [
    ref,
    version,
    network,
    sealed,
  ])
}

/** Passwords older than what every one of these nodes has proven are of no more use. */
export async function forgetCredentialsBefore(db: Database, ref: string, version: number): Promise<void> {
  await db.run('delete from credentials where ref = $1 and version < $2', [ref, version])
}

export const carriedStates = ['carried', 'trying', 'returned', 'refused', 'waiting'] as const
const carriedRow = z.object({
  node_id: z.string(),
  ref: z.string(),
  version: z.number(),
  tried: z.number(),
  state: z.enum(carriedStates),
  reason: z.string().nullable(),
  at: z.date(),
})
export type CarriedRow = z.infer<typeof carriedRow>

export function allCarried(db: Database): Promise<CarriedRow[]> {
  return db.query(carriedRow, 'select node_id, ref, version, tried, state, reason, at from carried')
}

export async function putCarried(db: Database, r: Omit<CarriedRow, 'at'>): Promise<void> {
  await db.run(
    `insert into carried (node_id, ref, version, tried, state, reason) values ($1, $2, $3, $4, $5, $6)
    on conflict (node_id, ref) do update set version = excluded.version, tried = excluded.tried, state = excluded.state, reason = excluded.reason, at = now()`,
    [r.node_id, r.ref, r.version, r.tried, r.state, r.reason],
  )
}

export async function nodeKey(db: Database, node: string): Promise<string | null> {
  return (
    (await db.query(z.object({ sealed: z.string() }), 'select sealed from node_keys where node_id = $1', [node]))[0]
      ?.sealed ?? null
  )
}

export function allNodeKeys(db: Database): Promise<{ node_id: string; sealed: string }[]> {
  return db.query(z.object({ node_id: z.string(), sealed: z.string() }), 'select node_id, sealed from node_keys')
}

export async function putNodeKey(db: Database, node: string, sealed: string): Promise<void> {
  await db.run(
    'insert into node_keys (node_id, sealed) values ($1, $2) on conflict (node_id) do update set sealed = excluded.sealed',
    [node, sealed],
  )
}

/** The number of the next sealed message to this node. */
export async function nextMessage(db: Database, node: string): Promise<number> {
  const [row] = await db.query(
    z.object({ messages: z.coerce.number() }),
    'update node_keys set messages = messages + 1 where node_id = $1 returning messages',
    [node],
  )
  return row?.messages ?? 0
}

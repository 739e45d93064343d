import { z } from 'zod'
import { roles } from '../../wire/brokerControl'
import type { Database } from './database'

const loginRow = z.object({
  name: z.string(),
  role: z.enum(roles),
  node_id: z.string().nullable(),
  salt: z.string(),
  hash: z.string(),
  next_salt: z.string().nullable(),
  next_hash: z.string().nullable(),
  /** What a guest may use, without a slash at the end. */
  topics: z.array(z.string()),
  created_at: z.date(),
})
export type LoginRow = z.infer<typeof loginRow>

export function allLogins(db: Database): Promise<LoginRow[]> {
  return db.query(
    loginRow,
    'select name, role, node_id, salt, hash, next_salt, next_hash, topics, created_at from logins',
  )
}

/** Keeps a login; gives it back with the time it was kept. */
export async function putLogin(db: Database, login: Omit<LoginRow, 'created_at'>): Promise<LoginRow> {
  const [row] = await db.query(
    loginRow,
    `insert into logins (name, role, node_id, salt, hash, next_salt, next_hash, topics) values ($1, $2, $3, $4, $5, $6, $7, $8)
    on conflict (name) do update set role = excluded.role, node_id = excluded.node_id, salt = excluded.salt, hash = excluded.hash, next_salt = excluded.next_salt, next_hash = excluded.next_hash, topics = excluded.topics, created_at = now() returning name, role, node_id, salt, hash, next_salt, next_hash, topics, created_at`,
    [login.name, login.role, login.node_id, login.salt, login.hash, login.next_salt, login.next_hash, login.topics],
  )
  if (!row) throw new Error('the login was not kept')
  return row
}

export async function deleteLogin(db: Database, name: string): Promise<void> {
  await db.run('delete from logins where name = $1', [name])
}

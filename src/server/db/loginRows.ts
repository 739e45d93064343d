import { z } from 'zod'
import type { Database } from './database'

export const roles = ['node', 'gateway', 'controller', 'reader', 'product', 'standin'] as const
export type Role = (typeof roles)[number]

const loginRow = z.object({
  name: z.string(),
  role: z.enum(roles),
  node_id: z.string().nullable(),
  salt: z.string(),
  hash: z.string(),
  next_salt: z.string().nullable(),
  next_hash: z.string().nullable(),
})
export type LoginRow = z.infer<typeof loginRow>

export function allLogins(db: Database): Promise<LoginRow[]> {
  return db.query(loginRow, 'select name, role, node_id, salt, hash, next_salt, next_hash from logins')
}

export async function putLogin(db: Database, login: LoginRow): Promise<void> {
  await db.run(
    `insert into logins (name, role, node_id, salt, hash, next_salt, next_hash) values ($1, $2, $3, $4, $5, $6, $7)
    on conflict (name) do update set role = excluded.role, node_id = excluded.node_id, salt = excluded.salt, hash = excluded.hash, next_salt = excluded.next_salt, next_hash = excluded.next_hash, created_at = now()`,
    [login.name, login.role, login.node_id, login.salt, login.hash, login.next_salt, login.next_hash],
  )
}

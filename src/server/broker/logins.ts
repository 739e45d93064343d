import { randomBytes, scrypt, timingSafeEqual } from 'node:crypto'
import { promisify } from 'node:util'
import type { Database } from '../db/database'
import { allLogins, type LoginRow, putLogin, type Role } from '../db/loginRows'

const derive = promisify<string, string, number, Buffer>(scrypt)
const KEY_BYTES = 32

/** Broker logins. Only a scrypt hash is kept; a password exists in clear where it is made, and nowhere after. */
export class Logins {
  private byName = new Map<string, LoginRow>()

  private constructor(private readonly db: Database) {}

  static async load(db: Database): Promise<Logins> {
    const logins = new Logins(db)
    for (const row of await allLogins(db)) logins.byName.set(row.name, row)
    return logins
  }

  async set(name: string, role: Role, node: string | null, password: string): Promise<void> {
    const salt = randomBytes(16).toString('hex')
    const hash = (await derive(password, salt, KEY_BYTES)).toString('hex')
    const row: LoginRow = { name, role, node_id: node, salt, hash }
    await putLogin(this.db, row)
    this.byName.set(name, row)
  }

  has(name: string): boolean {
    return this.byName.has(name)
  }

  async check(name: string, password: string): Promise<LoginRow | null> {
    const row = this.byName.get(name)
    // A name nobody has takes as long to refuse as a wrong password.
    const hash = await derive(password, row?.salt ?? 'nobody', KEY_BYTES)
    return row && timingSafeEqual(hash, Buffer.from(row.hash, 'hex')) ? row : null
  }
}

export function newPassword(): string {
  return randomBytes(18).toString('base64url')
}

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
    await this.put({ name, role, node_id: node, ...(await hashed(password)), next_salt: null, next_hash: null })
  }

  /** A second password that counts beside the present one. */
  async addNext(name: string, password: string): Promise<void> {
    const row = this.byName.get(name)
    const { salt, hash } = await hashed(password)
    if (row) await this.put({ ...row, next_salt: salt, next_hash: hash })
  }

  /** The second password becomes the only one. */
  async promote(name: string): Promise<void> {
    const row = this.byName.get(name)
    if (row?.next_salt && row.next_hash) await this.put({ ...row, salt: row.next_salt, hash: row.next_hash, next_salt: null, next_hash: null })
  }

  async dropNext(name: string): Promise<void> {
    const row = this.byName.get(name)
    if (row) await this.put({ ...row, next_salt: null, next_hash: null })
  }

  /** Name of a node's login, or null while it has none. */
  ofNode(node: string): string | null {
    for (const row of this.byName.values()) if (row.node_id === node && row.role === 'node') return row.name
    return null
  }

  private async put(row: LoginRow): Promise<void> {
    await putLogin(this.db, row)
    this.byName.set(row.name, row)
  }

  has(name: string): boolean {
    return this.byName.has(name)
  }

  async check(name: string, password: string): Promise<LoginRow | null> {
    const row = this.byName.get(name)
    // A name nobody has takes as long to refuse as a wrong password.
    const hash = await derive(password, row?.salt ?? 'nobody', KEY_BYTES)
    if (row && timingSafeEqual(hash, Buffer.from(row.hash, 'hex'))) return row
    if (!row?.next_salt || !row.next_hash) return null
    return timingSafeEqual(await derive(password, row.next_salt, KEY_BYTES), Buffer.from(row.next_hash, 'hex')) ? row : null
  }
}

async function hashed(password: string): Promise<{ salt: string; hash: string }> {
  const salt = randomBytes(16).toString('hex')
  return { salt, hash: (await derive(password, salt, KEY_BYTES)).toString('hex') }
}

export function newPassword(): string {
  return randomBytes(18).toString('base64url')
}

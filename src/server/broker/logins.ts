import { randomBytes, scrypt } from 'node:crypto'
import { promisify } from 'node:util'
import type { BrokerLogin, Role } from '../../wire/brokerControl'
import type { Database } from '../db/database'
import { allLogins, deleteLogin, type LoginRow, putLogin } from '../db/loginRows'

const derive = promisify<string, string, number, Buffer>(scrypt)
const KEY_BYTES = 32

/**
 * Broker logins. Only a scrypt hash is kept; a password exists in clear where it is made, and nowhere after. The broker
 * has a copy of them and is told of every change before that is said to be done.
 */
export class Logins {
  private byName = new Map<string, LoginRow>()
  private tell: (logins: BrokerLogin[]) => Promise<void> = () => Promise.resolve()

  private constructor(private readonly db: Database) {}

  static async load(db: Database): Promise<Logins> {
    const logins = new Logins(db)
    for (const row of await allLogins(db)) logins.byName.set(row.name, row)
    return logins
  }

  /** From now on `tell` hears of every change. */
  follow(tell: (logins: BrokerLogin[]) => Promise<void>): void {
    this.tell = tell
  }

  /** All of them as the broker knows them. */
  all(): BrokerLogin[] {
    return [...this.byName.values()].map((r) => ({
      name: r.name,
      role: r.role,
      node: r.node_id,
      salt: r.salt,
      hash: r.hash,
      nextSalt: r.next_salt,
      nextHash: r.next_hash,
    }))
  }

  /** `topics`: where a guest's begin. */
  async set(name: string, role: Role, node: string | null, password: string, topics: string[] = []): Promise<void> {
    const next = { next_salt: null, next_hash: null }
    await this.put({ name, role, node_id: node, ...(await hashed(password)), ...next, topics })
  }

  /** Guests by name, with the beginnings of their topics. */
  guests(): { name: string; topics: string[] }[] {
    return this.ofRole('guest').map(({ name }) => ({ name, topics: this.byName.get(name)?.topics ?? [] }))
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
    if (row?.next_salt && row.next_hash)
      await this.put({ ...row, salt: row.next_salt, hash: row.next_hash, next_salt: null, next_hash: null })
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

  /** The login a node has, under whatever name it began with; else one that is nobody's yet. */
  nameFor({ id, slug }: { id: string; slug: string }): string {
    const own = this.ofNode(id)
    if (own !== null) return own
    for (let n = 1; ; n++) {
      const name = n === 1 ? `node-${slug}` : `node-${slug}-${n}`
      if (!this.byName.has(name)) return name
    }
  }

  /** Logins of a role by name, with when their password was set, ISO 8601. */
  ofRole(role: Role): { name: string; at: string }[] {
    return [...this.byName.values()]
      .filter((row) => row.role === role)
      .map(({ name, created_at: at }) => ({ name, at: at.toISOString() }))
      .sort((a, b) => (a.name < b.name ? -1 : 1))
  }

  async remove(name: string): Promise<void> {
    await deleteLogin(this.db, name)
    await this.forgotten(name)
  }

  /** A login whose row is gone with something else lets nobody in any more. */
  async forgotten(name: string): Promise<void> {
    this.byName.delete(name)
    await this.tell(this.all())
  }

  has(name: string): boolean {
    return this.byName.has(name)
  }

  private async put(row: Omit<LoginRow, 'created_at'>): Promise<void> {
    this.byName.set(row.name, await putLogin(this.db, row))
    await this.tell(this.all())
  }
}

async function hashed(password: string): Promise<{ salt: string; hash: string }> {
  const salt = randomBytes(16).toString('hex')
  return { salt, hash: (await derive(password, salt, KEY_BYTES)).toString('hex') }
}

export function newPassword(): string {
  return randomBytes(18).toString('base64url')
}

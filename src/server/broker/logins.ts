import { createHmac, randomBytes, scrypt, timingSafeEqual } from 'node:crypto'
import { promisify } from 'node:util'
import type { Database } from '../db/database'
import { allLogins, deleteLogin, type LoginRow, putLogin, type Role } from '../db/loginRows'
import { Turns } from './turns'

/** Where a login is tried from, and whether anybody still waits for the answer. */
export interface Asker {
  address: string
  gone: () => boolean
}
const HERE: Asker = { address: '', gone: () => false }

const derive = promisify<string, string, number, Buffer>(scrypt)
const KEY_BYTES = 32

/** Broker logins. Only a scrypt hash is kept; a password exists in clear where it is made, and nowhere after. */
export class Logins {
  private byName = new Map<string, LoginRow>()
  /** A lane for each known name from one address, and one for all unknown names of an address together. */
  private readonly queue = new Turns({ running: 2, waiting: 300, alike: 12 })
  /** Marks of what has been found right, each with the row it was right for; worthless outside this process. */
  private right = new Map<string, LoginRow>()
  private readonly salt = randomBytes(32)
  private asking = new Map<string, Promise<{ row: LoginRow | null } | null>>()

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

  /** Logins of a role by name, with when their password was set, ISO 8601. */
  ofRole(role: Role): { name: string; at: string }[] {
    return [...this.byName.values()]
      .filter((row) => row.role === role)
      .map(({ name, created_at: at }) => ({ name, at: at.toISOString() }))
      .sort((a, b) => (a.name < b.name ? -1 : 1))
  }

  async remove(name: string): Promise<void> {
    await deleteLogin(this.db, name)
    this.forgotten(name)
  }

  /** A login whose row is gone with something else lets nobody in any more. */
  forgotten(name: string): void {
    this.byName.delete(name)
    this.forget(name)
  }

  private async put(row: Omit<LoginRow, 'created_at'>): Promise<void> {
    this.byName.set(row.name, await putLogin(this.db, row))
    this.forget(row.name)
  }

  private forget(name: string): void {
    for (const [mark, was] of this.right) if (was.name === name) this.right.delete(mark)
  }

  has(name: string): boolean {
    return this.byName.has(name)
  }

  /**
   * The login of this name and password, null when it is not, 'busy' when too many are being tried to say. `from`:
   * address and whether the asker is gone.
   */
  async check(name: string, password: string, from: Asker = HERE): Promise<LoginRow | 'busy' | null> {
    const row = this.byName.get(name)
    const mark = this.markOf(name, password)
    // A password that has been right since it was set need not be worked out again: who has it does not wait behind
    // those who guess.
    if (row && this.right.get(mark) === row) return row
    const lane = `${from.address} ${row ? name : ''}`
    // Who asks the same at the same time gets the same answer.
    const asked =
      this.asking.get(mark) ?? this.queue.ask(lane, from.gone, async () => ({ row: await this.work(name, password) }))
    this.asking.set(mark, asked)
    const found = await asked.finally(() => this.asking.delete(mark))
    if (!found) return 'busy'
    if (found.row) this.right.set(mark, found.row)
    return found.row
  }

  private markOf(name: string, password: string): string {
    return createHmac('sha256', this.salt)
      .update(JSON.stringify([name, password]))
      .digest('base64')
  }

  private async work(name: string, password: string): Promise<LoginRow | null> {
    const row = this.byName.get(name)
    // A name nobody has takes as long to refuse as a wrong password.
    const hash = await derive(password, row?.salt ?? 'nobody', KEY_BYTES)
    if (row && timingSafeEqual(hash, Buffer.from(row.hash, 'hex'))) return row
    if (!row?.next_salt || !row.next_hash) return null
    return timingSafeEqual(await derive(password, row.next_salt, KEY_BYTES), Buffer.from(row.next_hash, 'hex'))
      ? row
      : null
  }
}

async function hashed(password: string): Promise<{ salt: string; hash: string }> {
  const salt = randomBytes(16).toString('hex')
  return { salt, hash: (await derive(password, salt, KEY_BYTES)).toString('hex') }
}

export function newPassword(): string {
  return randomBytes(18).toString('base64url')
}

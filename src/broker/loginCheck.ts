import { createHmac, randomBytes, scrypt, timingSafeEqual } from 'node:crypto'
import { promisify } from 'node:util'
import type { BrokerLogin } from '../wire/brokerControl'
import { Turns } from './turns'

/** Where a login is tried from, and whether anybody still waits for the answer. */
export interface Asker {
  address: string
  gone: () => boolean
}
const HERE: Asker = { address: '', gone: () => false }

const derive = promisify<string, string, number, Buffer>(scrypt)
const KEY_BYTES = 32

/** Who may come in. Only hashes are known here. */
export class LoginCheck {
  private byName = new Map<string, BrokerLogin>()
  /** A lane for each known name from one address, and one for all unknown names of an address together. */
  private readonly queue = new Turns({ running: 2, waiting: 300, alike: 12 })
  /** Marks of what has been found right, each with the login it was right for; worthless outside this process. */
  private right = new Map<string, BrokerLogin>()
  private readonly salt = randomBytes(32)
  private asking = new Map<string, Promise<{ login: BrokerLogin | null } | null>>()

  constructor(logins: readonly BrokerLogin[] = []) {
    this.put(logins)
  }

  /** These are the logins from now on; one that has not changed is remembered as right. */
  put(logins: readonly BrokerLogin[]): void {
    const before = this.byName
    this.byName = new Map(
      logins.map((login) => {
        const was = before.get(login.name)
        return [login.name, was && JSON.stringify(was) === JSON.stringify(login) ? was : login]
      }),
    )
    for (const [mark, was] of this.right) if (this.byName.get(was.name) !== was) this.right.delete(mark)
  }

  /**
   * The login of this name and password, null when it is not, 'busy' when too many are being tried to say. `from`:
   * address and whether the asker is gone.
   */
  async check(name: string, password: string, from: Asker = HERE): Promise<BrokerLogin | 'busy' | null> {
    const login = this.byName.get(name)
    const mark = this.markOf(name, password)
    // A password that has been right since it was set need not be worked out again: who has it does not wait behind
    // those who guess.
    if (login && this.right.get(mark) === login) return login
    const lane = `${from.address} ${login ? name : ''}`
    // Who asks the same at the same time gets the same answer.
    const asked =
      this.asking.get(mark) ?? this.queue.ask(lane, from.gone, async () => ({ login: await this.work(name, password) }))
    this.asking.set(mark, asked)
    const found = await asked.finally(() => this.asking.delete(mark))
    if (!found) return 'busy'
    if (found.login) this.right.set(mark, found.login)
    return found.login
  }

  private markOf(name: string, password: string): string {
    return createHmac('sha256', this.salt)
      .update(JSON.stringify([name, password]))
      .digest('base64')
  }

  private async work(name: string, password: string): Promise<BrokerLogin | null> {
    const login = this.byName.get(name)
    // A name nobody has takes as long to refuse as a wrong password.
    const hash = await derive(password, login?.salt ?? 'nobody', KEY_BYTES)
    if (login && timingSafeEqual(hash, Buffer.from(login.hash, 'hex'))) return login
    if (!login?.nextSalt || !login.nextHash) return null
    return timingSafeEqual(await derive(password, login.nextSalt, KEY_BYTES), Buffer.from(login.nextHash, 'hex'))
      ? login
      : null
  }
}

import { type Logins, newPassword } from '../broker/logins'
import type { ControllerView } from '../../wire/controllers'

export interface ControllersOptions {
  logins: Logins
  /** Connections a login has now. */
  connectionsOf: (login: string) => number
  /** Ends the connections of a login. */
  cutOff: (login: string) => Promise<void>
  /** Logins belong to somebody else's broker. */
  outside: () => boolean
}

export type ControllerOutcome = { ok: true; password: string } | { ok: false; reason: string }
const no = (reason: string): ControllerOutcome => ({ ok: false, reason })
const ELSEWHERE =
  'The broker in use is an outside one: its own administrator makes the controller’s login there. It needs to hear everything below this shop’s first level and to publish on …/set.'

/** Logins of home controllers: made, shown once, renewed, withdrawn. */
export class Controllers {
  constructor(private readonly o: ControllersOptions) {}

  list(): ControllerView[] {
    return this.o.logins
      .ofRole('controller')
      .map(({ name, at }) => ({ name, at, connections: this.o.connectionsOf(name) }))
  }

  async make(name: string): Promise<ControllerOutcome> {
    if (this.o.outside()) return no(ELSEWHERE)
    if (this.o.logins.has(name))
      return no(`There is a login “${name}” already: renew its password, or take another name.`)
    return this.put(name)
  }

  /** Another password: the old one stops at once, and so does whoever is in with it. */
  async renew(name: string): Promise<ControllerOutcome> {
    if (!this.isController(name)) return no(`There is no controller “${name}”.`)
    const made = await this.put(name)
    await this.o.cutOff(name)
    return made
  }

  async withdraw(name: string): Promise<string | null> {
    if (!this.isController(name)) return `There is no controller “${name}”.`
    await this.o.logins.remove(name)
    await this.o.cutOff(name)
    return null
  }

  private isController(name: string): boolean {
    return this.o.logins.ofRole('controller').some((l) => l.name === name)
  }

  private async put(name: string): Promise<ControllerOutcome> {
    const password = newPassword()
    await this.o.logins.set(name, 'controller', null, password)
    return { ok: true, password }
  }
}

import { randomBytes } from 'node:crypto'
import type { BrokerLogin } from '../../proving/brokerLine'
import { type MayAlso, mayAlso } from '../../proving/mayAlso'
import { type Logins, newPassword } from '../broker/logins'
import { controllerAccess, guestAccess, type TopicAccess } from '../../core/publish/access'
import type { AccessRow, ControllerView } from '../../wire/controllers'
import type { Listener } from '../../wire/brokerControl'
import { matches } from '../../core/publish/topicFilter'

export interface ControllersOptions {
  logins: Logins
  /** Connections a login has now. */
  connectionsOf: (login: string) => number
  listenerOf: (login: string) => Listener | null
  /** Filters of what is announced in other forms, outside of the root. */
  announced: () => string[]
  /** Topics of everything that is offered. */
  offered: () => string[]
  /** Ends the connections of a login. */
  cutOff: (login: string) => Promise<void>
  root: string
  nodes: () => { id: string; name: string; slug: string }[]
  nodeAccess: (node: string) => TopicAccess
  /** Logins belong to somebody else's broker. */
  outside: () => boolean
  /** How we reach that; null with our own. */
  outsideLogin: () => Promise<BrokerLogin | null>
}

export type ControllerOutcome = { ok: true; password: string } | { ok: false; reason: string }
const no = (reason: string): ControllerOutcome => ({ ok: false, reason })
const ELSEWHERE =
  'The broker in use is an outside one: its own administrator makes the controller’s login there. It needs to hear everything below this shop’s first level and to publish on …/set.'

/** Logins of home controllers: made, shown once, renewed, withdrawn. */
export class Controllers {
  constructor(private readonly o: ControllersOptions) {}

  list(): ControllerView[] {
    const { logins, connectionsOf } = this.o
    const guests = new Map(logins.guests().map((g) => [g.name, g.topics]))
    return (['controller', 'guest'] as const).flatMap((role) =>
      logins
        .ofRole(role)
        // A contract test's own, for as long as it runs.
        .filter(({ name }) => !name.startsWith('proof-'))
        .map(({ name, at }) => ({
          name,
          role,
          topics: guests.get(name) ?? [],
          at,
          connections: connectionsOf(name),
          ...this.listening(name),
        })),
    )
  }

  /** Since when it listens, and which offered topics it has not asked for. */
  private listening(name: string): Pick<ControllerView, 'since' | 'unasked'> {
    const listener = this.o.listenerOf(name)
    if (!listener) return { since: null, unasked: null }
    const unasked = this.o.offered().filter((topic) => !listener.filters.some((f) => matches(f, topic)))
    return { since: listener.since, unasked }
  }

  /** A controller's login, or with `topics` one of a guest who keeps to what begins with them. */
  async make(name: string, topics: string[] = []): Promise<ControllerOutcome> {
    if (this.o.outside()) return no(ELSEWHERE)
    if (this.o.logins.has(name))
      return no(`There is a login “${name}” already: renew its password, or take another name.`)
    return this.put(name, topics)
  }

  /** Another password: the old one stops at once, and so does whoever is in with it. */
  async renew(name: string): Promise<ControllerOutcome> {
    const known = this.list().find((l) => l.name === name)
    if (!known) return no(`There is no controller “${name}”.`)
    const made = await this.put(name, known.topics)
    await this.o.cutOff(name)
    return made
  }

  async withdraw(name: string): Promise<string | null> {
    if (!this.list().some((l) => l.name === name)) return `There is no controller “${name}”.`
    await this.o.logins.remove(name)
    await this.o.cutOff(name)
    return null
  }

  /** The same rights in filters, for a broker somebody else runs. */
  access(): AccessRow[] {
    const { logins, root, nodes, nodeAccess } = this.o
    const all = { not: [] as string[] }
    const announced = this.o.announced()
    return [
      ...nodes().map(({ id, name, slug }) => ({
        login: logins.ofNode(id) ?? `node-${slug}`,
        who: name,
        ...nodeAccess(id),
        ...all,
      })),
      ...logins.ofRole('controller').map((l) => ({ login: l.name, who: 'controller', ...this.heardToo(announced) })),
      ...logins.guests().map((g) => ({ login: g.name, who: 'guest', ...guestAccess(root, g.topics), ...all })),
      { login: 'of your choice', who: 'Vivid Node', publish: [`${root}/#`, ...announced], hear: [`${root}/#`], ...all },
    ]
  }

  /** What a controller may, and that it hears what is announced in other forms. */
  private heardToo(announced: readonly string[]) {
    const own = controllerAccess(this.o.root)
    return { ...own, hear: [...own.hear, ...announced] }
  }

  /** Tries at the outside broker what a login may beyond the rights of `as`; a reason where it cannot be tried. */
  async mayAlso(wish: { login: string; password: string; as: string }): Promise<MayAlso | { reason: string }> {
    const watcher = await this.o.outsideLogin()
    if (!watcher) return { reason: 'The broker in use is our own: it keeps to the list above, and is tested by it.' }
    const of = this.access().find((row) => row.login === wish.as)
    if (!of) return { reason: `Nobody here has the rights of “${wish.as}”.` }
    const tried = { url: watcher.url, username: wish.login, password: wish.password }
    const slug = `probe-${randomBytes(4).toString('hex')}`
    try {
      return await mayAlso(watcher, tried, of, this.o.root, slug)
    } catch (e) {
      return { reason: `The broker cannot be reached now: ${e instanceof Error ? e.message : String(e)}.` }
    }
  }

  private async put(name: string, topics: string[]): Promise<ControllerOutcome> {
    const password = newPassword()
    await this.o.logins.set(name, topics.length > 0 ? 'guest' : 'controller', null, password, topics)
    return { ok: true, password }
  }
}

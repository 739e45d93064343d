import { HeardSoFar } from '../core/proof/heard'
import { judge, mediansOf, type Announced } from '../core/proof/judge'
import { type Line, lineKey } from '../core/proof/line'
import { type Promised, promisesOf, type Thing } from '../core/proof/promises'
import { type BrokerLogin, joinBroker } from './brokerLine'
import { tryCommands } from './commands'
import { tryCut, tryRestart, tryTakeAway } from './deeds'
import { Room } from './room'

/** What a person is asked to do, or a stand-in does; false: it was not done. */
export interface Deeds {
  /** Commands are sent to outputs that are off; with `mayAct` also such that do something. */
  commands: boolean
  mayAct?: (thing: Thing, promised: Promised) => Promise<boolean>
  /** Cuts a thing's link without goodbye. */
  cut?: (thing: Thing) => Promise<boolean>
  /** Gives it back. */
  restore?: (thing: Thing) => Promise<boolean>
  restart?: (thing: Thing) => Promise<boolean>
  /** Takes the part of a reading away, so that it cannot know its value. */
  takeAway?: (thing: Thing, promised: Promised) => Promise<boolean>
}

export interface ProveOptions {
  login: BrokerLogin
  root: string
  /** Listens for so long, s. */
  listenS: number
  /** Slugs of things that are looked at; all without. */
  only?: readonly string[]
  /** Medians of the run before, by topic. */
  before?: ReadonlyMap<string, number>
  deeds: Deeds
  stop?: AbortSignal
  /** Told as it goes on. */
  say?: (progress: Progress) => void
}

export interface Progress {
  doing: string
  /** Share that is done, 0 to 1; null while a person is waited for. */
  share: number | null
}

export interface Report {
  root: string
  /** ISO 8601. */
  began: string
  listenedS: number
  messages: number
  things: { title: string; at: string; id: string }[]
  lines: Line[]
  medians: Record<string, number>
}

/** Nothing is provoked: what a run by the clock may do. */
export const LISTEN_ONLY: Deeds = { commands: false }

/**
 * The contract test against a live broker: listens, provokes what it may, and gives a verdict for each line. Rejects
 * when the broker cannot be reached or is lost; ends early when it is stopped, with what it has.
 */
export async function prove(o: ProveOptions): Promise<Report> {
  const began = new Date().toISOString()
  const say = o.say ?? (() => undefined)
  const room = new Room(new HeardSoFar(performance.now() / 1000), o.stop)
  say({ doing: 'connecting', share: 0 })
  const line = await joinBroker(o.login, o.root, room.take, room.lose)
  try {
    room.beginAll(await line.kept(o.root))
    const found = announcements(room.heard, o.root, o.only)
    const things = found.flatMap(({ thing }) => ('reason' in thing ? [] : [thing]))
    const provoked: Line[] = []
    for (const thing of things) {
      say({ doing: `commands of ${thing.title}`, share: 0 })
      provoked.push(...(await tryCommands(room, line, thing, o.deeds)))
    }
    await room.listen(o.listenS, (share) => say({ doing: 'listening', share }))
    // What the provoking of losses leaves behind is not held against the silence before it.
    for (const [topic, text] of await line.kept(o.root)) room.heard.kept(topic, text)
    const quiet = room.freeze()
    for (const thing of things) {
      say({ doing: `the link of ${thing.title}`, share: null })
      provoked.push(...(await tryTakeAway(room, thing, o.deeds)))
      provoked.push(...(await tryCut(room, thing, o.deeds)))
      provoked.push(...(await tryRestart(room, line, thing, o)))
    }
    const lines = judge({ root: o.root, announced: found, heard: quiet, before: o.before ?? new Map() })
    const shown = o.only ? lines.filter((l) => found.some((a) => l.topic.startsWith(a.at.replace(/td$/, '')))) : lines
    return {
      root: o.root,
      began,
      listenedS: Math.round(quiet.endS - quiet.beganS),
      messages: [...quiet.topics.values()].reduce((sum, t) => sum + t.live.length, 0),
      things: things.map(({ title, at, id }) => ({ title, at, id })),
      // What was provoked says more than what was merely heard.
      lines: [...shown.filter((l) => !provoked.some((p) => lineKey(p) === lineKey(l))), ...provoked],
      medians: Object.fromEntries(mediansOf(things, quiet)),
    }
  } finally {
    await line.close().catch(() => undefined)
  }
}

/** Descriptions below a root, in the order of their topics. */
export function announcements(heard: HeardSoFar, root: string, only?: readonly string[]): Announced[] {
  return [...heard.topics.keys()]
    .filter((topic) => {
      const [first, node = '', leaf, ...more] = topic.split('/')
      return first === root && leaf === 'td' && more.length === 0 && (only?.includes(node) ?? true)
    })
    .sort()
    .flatMap((at): Announced[] => {
      const text = heard.of(at).keptAtStart ?? heard.of(at).live.at(-1)?.text
      return text === undefined || text === '' ? [] : [{ at, thing: promisesOf(at, text) }]
    })
}

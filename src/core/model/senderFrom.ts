import { type Family, positionsOf } from '../radio/subghz/family'
import { addressOf, learntFrom } from '../radio/candidates'
import type { Sender, SenderSignal } from './sender'

/** What a learnt sender is to be. A code that says only that something happened is an event unless told otherwise. */
export type Becomes = 'event' | 'ending state' | 'two codes' | 'keys'

/** How long a state is believed without being said again, s: a door a day, a movement two minutes. */
export const USUAL_END_S = { 'two codes': 86_400, 'ending state': 120 } as const
/** A flag is believed for a week: a sensor that nobody triggers says nothing of its battery. */
const FLAG_END_S = 604_800
const KEYS = 'abcdefghijklmnop'

export interface LearntSender {
  becomes: Becomes
  name: string
  slug: string
  tag: string
  order: number
  place: string | null
  family: { id: string; family: Family }
  /** Codes in the order they were asked for: open then closed, key by key. */
  codes: readonly string[]
  endS: number
  said: { on: string; off: string }
  receivers: readonly string[]
}

/** A sender as the shop keeps it, from what was learnt of it. */
export function senderFrom(l: LearntSender): Sender {
  const { family } = l.family
  const flags = flagSignals(family)
  const flagBits = new Set(flags.map((f) => f.at))
  // Bits of its own state are not part of what it says.
  const free = (code: string) => [...code].map((bit, i) => (flagBits.has(i) ? '.' : bit)).join('')
  const codes = l.codes.map(free)
  const shared = learntFrom(codes).address
  const described = family.parts.length > 0 ? free(addressOf(family, codes[0] ?? '')) : shared
  const common = covers(described, codes) ? described : shared
  const signals: [string, SenderSignal][] = [
    ['it', mainSignal(l, codes)],
    ...flags.map((f, i): [string, SenderSignal] => [
      f.role === 'tamper' ? 'tamper' : 'battery',
      {
        kind: 'flag',
        order: i + 1,
        name: f.role === 'tamper' ? 'opened up' : 'battery low',
        slug: f.role === 'tamper' ? 'opened-up' : 'battery-low',
        role: f.role,
        at: f.at,
        is: '1',
        endS: FLAG_END_S,
      },
    ]),
  ]
  return {
    order: l.order,
    name: l.name,
    slug: l.slug,
    tag: l.tag,
    place: l.place,
    medium: 'subghz',
    family: l.family.id,
    // A sender with one code is known by all of it: half a code could be a neighbour’s.
    address: l.codes.length === 1 ? (codes[0] ?? '') : common,
    signals: Object.fromEntries(signals),
    everyS: 0,
    receivers: [...l.receivers],
  }
}

const covers = (pattern: string, codes: readonly string[]): boolean =>
  codes.every((c) => [...pattern].every((bit, i) => bit === '.' || c[i] === '.' || bit === c[i]))

function mainSignal({ becomes, endS, said }: LearntSender, codes: readonly string[]): SenderSignal {
  const [first = '', second = null] = codes
  if (becomes === 'keys')
    return {
      kind: 'event',
      order: 0,
      name: 'key',
      slug: 'key',
      words: Object.fromEntries(codes.map((c, i) => [c, KEYS[i] ?? `k${i + 1}`])),
    }
  if (becomes === 'event')
    return { kind: 'event', order: 0, name: 'triggered', slug: 'triggered', words: { [first]: 'triggered' } }
  return {
    kind: 'state',
    order: 0,
    name: 'state',
    slug: 'state',
    on: first,
    off: becomes === 'two codes' ? second : null,
    endS,
    then: becomes === 'two codes' ? 'unknown' : 'off',
    said,
  }
}

function flagSignals(family: Family): { role: 'battery-low' | 'tamper'; at: number }[] {
  return (['battery-low', 'tamper'] as const).flatMap((role) =>
    family.parts.some((p) => p.role === role)
      ? positionsOf(family, role)
          .slice(0, 1)
          .map((at) => ({ role, at }))
      : [],
  )
}

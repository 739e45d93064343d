import { fixed } from '../units/format'
import type { Watch } from './step'

/** What the product knows of a node while a step is open. */
export interface LiveFacts {
  status: { is: string } | null
  health: { dbm: number | null } | null
  running: { revision: number } | null
  values: Readonly<Record<string, { value: unknown; at: string } | undefined>>
}

/** How a signal stood when the step was opened, and how it moved before and since. */
export interface Before {
  /** ISO 8601. */
  at: string
  value: unknown
  known: boolean
  /** Its numbers, oldest first, at in ms: each stands until the next. */
  history: readonly Stood[]
}
export interface Stood {
  at: number
  value: number
}

export interface Seen {
  /** What is watched for has happened since the step was opened. */
  seen: boolean
  /** A value that comes by itself. */
  value: number | null
  /** How it stands, in words. */
  words: string | null
}
export const NOT_SEEN: Seen = { seen: false, value: null, words: null }

const seen = (is: boolean, words: string | null): Seen => ({ seen: is, value: null, words })
/** A hand moves a reading within this, ms. */
const HAND_MS = 30_000
/** How it moves alone is known from so long, ms. */
export const ALONE_MS = 60_000
/** So many times what it did alone is no chance. */
const MORE_THAN_ALONE = 2
/** Smaller differences are rounding. */
const ROUNDING = 1e-9

/**
 * The most a reading that nobody touches has moved within half a minute, in its own unit.
 * @param history each value stands until the next; `until` in ms
 */
export function movedAlone(history: readonly Stood[], until: number): number {
  const quiet = history.filter((h) => h.at < until)
  let most = 0
  for (const [i, now] of quiet.entries())
    for (let j = i - 1; j >= 0; j--) {
      const earlier = quiet[j]
      if (!earlier) break
      most = Math.max(most, Math.abs(now.value - earlier.value))
      // What stood here half a minute ago is the last that counts.
      if (earlier.at <= now.at - HAND_MS) break
    }
  return most
}

const standing = (history: readonly Stood[], at: number): number | null =>
  history.findLast((h) => h.at <= at)?.value ?? null

interface Shown {
  by: number
  unit: string
  decimals: number
}
const PLAIN_NUMBER: Shown = { by: 0, unit: '', decimals: 0 }

/** Whether a hand moved a number: by so much, within half a minute, and more than it moves alone. */
function handMoved({ history, at }: Before, now: { value: number; at: number }, { by, unit, decimals }: Shown): Seen {
  const first = history[0]?.at ?? now.at
  const quietUntil = Math.max(Date.parse(at), first + ALONE_MS)
  const says = `now ${fixed(now.value, decimals)} ${unit}`.trimEnd()
  if (now.at < quietUntil)
    return seen(false, first + ALONE_MS > Date.parse(at) ? `${says}; leave it alone for a minute first` : says)
  const alone = movedAlone(history, quietUntil)
  const from = standing(history, Math.max(quietUntil, now.at - HAND_MS)) ?? now.value
  const asked = Math.max(by, MORE_THAN_ALONE * alone, ROUNDING)
  const much = `${fixed(asked, decimals)} ${unit}`.trimEnd()
  return seen(Math.abs(now.value - from) >= asked, `${says}; counts from ${much} within half a minute`)
}

type See = (live: LiveFacts, before: Before, now: { value: unknown; at: string } | undefined, watch: Watch) => Seen

const saidNow = (now: { value: unknown } | undefined): string =>
  now ? `now ${String(now.value)}` : 'nothing heard yet'
const isStatus =
  (wanted: string): See =>
  ({ status }) =>
    seen(status?.is === wanted, status?.is ?? 'never heard')
/** To another word: a first one is no movement. */
const hasChanged: See = (_, before, now) =>
  seen(before.known && now?.value !== null && now !== undefined && now.value !== before.value, saidNow(now))
const hasMoved: See = (live, before, now, watch) =>
  typeof now?.value === 'number' && watch.of === 'moved'
    ? handMoved(before, { value: now.value, at: Date.parse(now.at) }, watch.number ?? PLAIN_NUMBER)
    : hasChanged(live, before, now, watch)

const SEES: Readonly<Record<Watch['of'], See>> = {
  written: ({ running }) => seen(running !== null, running && `revision ${running.revision} runs`),
  started: isStatus('online'),
  online: isStatus('online'),
  offline: isStatus('offline'),
  strength: ({ health }) => ({ seen: false, value: health?.dbm ?? null, words: health ? null : 'not heard yet' }),
  told: (_, before, now) => seen(now !== undefined && now.at > before.at, saidNow(now)),
  unknown: (_, before, now) => seen(now?.value === null && before.value !== null, saidNow(now)),
  moved: hasMoved,
  commanded: hasChanged,
}

/** What of a step the product sees by itself. */
export const watched = (watch: Watch, live: LiveFacts, before: Before): Seen =>
  SEES[watch.of](live, before, 'signalId' in watch ? live.values[watch.signalId] : undefined, watch)

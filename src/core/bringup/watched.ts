import type { Watch } from './step'

/** What the product knows of a node while a step is open. */
export interface LiveFacts {
  status: { is: string } | null
  health: { dbm: number | null } | null
  running: { revision: number } | null
  values: Readonly<Record<string, { value: unknown; at: string } | undefined>>
}

/** How a signal stood when the step was opened. */
export interface Before {
  /** ISO 8601. */
  at: string
  value: unknown
  known: boolean
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
/** Smaller differences are rounding. */
const ROUNDING = 1e-9

/** Whether a value has moved from where it stood: by so much, or to another word. A first value is no movement. */
function moved(before: Before, now: unknown, by: number): boolean {
  if (typeof now === 'number' && typeof before.value === 'number')
    return Math.abs(now - before.value) >= Math.max(by, ROUNDING)
  return before.known && now !== null && now !== undefined && now !== before.value
}

type See = (live: LiveFacts, before: Before, now: { value: unknown; at: string } | undefined, watch: Watch) => Seen

const saidNow = (now: { value: unknown } | undefined): string =>
  now ? `now ${String(now.value)}` : 'nothing heard yet'
const isStatus =
  (wanted: string): See =>
  ({ status }) =>
    seen(status?.is === wanted, status?.is ?? 'never heard')
const hasMoved: See = (_, before, now, watch) =>
  seen(moved(before, now?.value, 'by' in watch ? (watch.by ?? 0) : 0), saidNow(now))

const SEES: Readonly<Record<Watch['of'], See>> = {
  written: ({ running }) => seen(running !== null, running && `revision ${running.revision} runs`),
  started: isStatus('online'),
  online: isStatus('online'),
  offline: isStatus('offline'),
  strength: ({ health }) => ({ seen: false, value: health?.dbm ?? null, words: health ? null : 'not heard yet' }),
  told: (_, before, now) => seen(now !== undefined && now.at > before.at, saidNow(now)),
  unknown: (_, before, now) => seen(now?.value === null && before.value !== null, saidNow(now)),
  moved: hasMoved,
  commanded: hasMoved,
}

/** What of a step the product sees by itself. */
export const watched = (watch: Watch, live: LiveFacts, before: Before): Seen =>
  SEES[watch.of](live, before, 'signalId' in watch ? live.values[watch.signalId] : undefined, watch)

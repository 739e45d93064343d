import { isTwoWay, type Levels } from '../catalog/levels'

/** Where a state made of a reading stands. `at` is null before the first reading, and where unknown counts as no word. */
export interface LevelState {
  at: number | null
  /** The reading itself is known. */
  known: boolean
  /** The word it would change to, and since when, ms. */
  next: number | null
  sinceMs: number
}
export const LEVEL_START: LevelState = { at: null, known: false, next: null, sinceMs: 0 }

/** The word a reading lies at, coming from `from`: it is left half the band beyond a cut. */
export function levelAt({ cuts, band }: Pick<Levels, 'cuts' | 'band'>, value: number, from: number | null): number {
  const half = from === null ? 0 : band / 2
  let at = from ?? 0
  while (at < cuts.length && value >= (cuts[at] ?? 0) + half) at += 1
  while (at > 0 && value < (cuts[at - 1] ?? 0) - half) at -= 1
  return at
}

/**
 * One step of a state made of a reading. The first reading is taken at once: it is where the state begins, not a change.
 * Afterwards a word counts when the reading has lain there for its time. An unknown reading is no word, at once; or it
 * lies at the word it counts as and has to stay there as long as any other, so that one lost echo darkens no room.
 * `value` in the reading's unit, unrounded, and `by` what a command has added to the cuts.
 */
export function levelStep(levels: Levels, before: LevelState, value: number | null, nowMs: number, by = 0): LevelState {
  const to = value === null ? levels.unknown : levelAt(levels, value - by, before.at)
  if (to === null) return LEVEL_START
  const known = value !== null
  if (before.at === null || to === before.at) return { at: to, known, next: null, sinceMs: nowMs }
  const sinceMs = before.next === to ? before.sinceMs : nowMs
  return nowMs - sinceMs >= (levels.holdS[to] ?? 0) * 1000
    ? { at: to, known, next: null, sinceMs: nowMs }
    : { at: before.at, known, next: to, sinceMs }
}

/** What is told of it: true or false, one of more than two words, or null. */
export function levelTold(levels: Levels, { at }: LevelState): boolean | string | null {
  if (at === null) return null
  return isTwoWay(levels) ? at === levels.on : (levels.words[at] ?? null)
}

/** What rules of the node go by: an unknown reading stays unknown to them, whatever it counts as. */
export const levelKnown = (levels: Levels, state: LevelState): boolean | string | null =>
  state.known ? levelTold(levels, state) : null

import { isTwoWay, type Levels } from '../catalog/levels'

/** Where a state made of a reading stands. `at` is null before the first known reading and after an unknown one. */
export interface LevelState {
  at: number | null
  /** The word it would change to, and since when, ms. */
  next: number | null
  sinceMs: number
}
export const LEVEL_START: LevelState = { at: null, next: null, sinceMs: 0 }

/** The word a reading lies at, coming from `from`: it is left half the band beyond a cut. */
export function levelAt({ cuts, band }: Pick<Levels, 'cuts' | 'band'>, value: number, from: number | null): number {
  const half = from === null ? 0 : band / 2
  let at = from ?? 0
  while (at < cuts.length && value >= (cuts[at] ?? 0) + half) at += 1
  while (at > 0 && value < (cuts[at - 1] ?? 0) - half) at -= 1
  return at
}

/**
 * One step of a state made of a reading. The first known reading, also after unknown, is taken at once: it is where the
 * state begins, not a change. Afterwards a word counts when the reading has lain there for its time. `value` in the
 * reading's unit, unrounded.
 */
export function levelStep(levels: Levels, before: LevelState, value: number | null, nowMs: number): LevelState {
  if (value === null) return LEVEL_START
  const to = levelAt(levels, value, before.at)
  if (before.at === null || to === before.at) return { at: to, next: null, sinceMs: nowMs }
  const sinceMs = before.next === to ? before.sinceMs : nowMs
  return nowMs - sinceMs >= (levels.holdS[to] ?? 0) * 1000
    ? { at: to, next: null, sinceMs: nowMs }
    : { at: before.at, next: to, sinceMs }
}

/** What is told of it: true or false, one of more than two words, or null. */
export function levelTold(levels: Levels, { at }: LevelState): boolean | string | null {
  const told = at ?? levels.unknown
  if (told === null) return null
  return isTwoWay(levels) ? told === levels.on : (levels.words[told] ?? null)
}

/** What rules of the node go by: an unknown reading stays unknown to them, whatever it counts as. */
export const levelKnown = (levels: Levels, state: LevelState): boolean | string | null =>
  levelTold({ ...levels, unknown: null }, state)

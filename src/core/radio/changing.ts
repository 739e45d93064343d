import type { InTheAir } from './candidates'
import { EARLY_MS, LATE_MS, type Press } from './learning'

export interface Changing {
  family: string
  /** Presses that a code answered which was said that once. */
  answered: number
}

/** Fewer presses than this could be answered by chance. */
const FEWEST = 4
/** Share of the presses that must be answered so. */
const MOSTLY = 0.8

/**
 * A make whose codes change with every press: most presses are answered by a code of it that was heard this once and never
 * else, and hardly any such code comes without a press. Null where nothing in the air does so. Such a sender cannot be
 * recognised by its code, and nobody else may say it.
 */
export function changingCodes(presses: readonly Press[], heard: readonly InTheAir[], nowMs: number): Changing | null {
  const due = presses.filter((p) => p.atMs + LATE_MS <= nowMs)
  const first = due[0]
  if (!first || due.length < FEWEST) return null
  const once = new Map<string, number[]>()
  for (const { family, arrivals } of heard) {
    const [only, another] = arrivals
    if (only && !another) once.set(family.name, [...(once.get(family.name) ?? []), only.atMs])
  }
  for (const [family, times] of once) {
    const left = new Set(times)
    let answered = 0
    for (const { atMs } of due) {
      const answer = [...left].find((t) => t >= atMs + EARLY_MS && t <= atMs + LATE_MS)
      if (answer === undefined) continue
      left.delete(answer)
      answered += 1
    }
    if (answered >= FEWEST && answered >= MOSTLY * due.length && left.size * 2 <= due.length)
      return { family, answered }
  }
  return null
}

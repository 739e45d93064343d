import { type FeedRail, railSuits, type Suits } from '../power/rails'

const PREFERRED: readonly Suits[] = ['well', 'nearly', 'low']

/**
 * The lowest rail inside the terminal's range: levels then agree with the chip where they can. Where none is, one that
 * only falls short at its lower end, which the checks then say. Never one behind a contact, of unproven isolation, or
 * alternating.
 */
export function lowestRail(rails: readonly FeedRail[], terminal: { minV: number; maxV: number }): string | undefined {
  const suitable = rails.filter((r) => !r.ac && r.through === null && r.isolated && r.max > 0)
  const ranked = [...suitable].sort((a, b) => a.max - b.max)
  for (const suits of PREFERRED) {
    const found = ranked.find((r) => railSuits(r, terminal) === suits)
    if (found) return found.id
  }
  return undefined
}

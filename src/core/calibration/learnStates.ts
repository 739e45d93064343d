import { normalTail } from './normalTail'

/** What a reading was while a word was true, in the reading's unit; `sd` of one reading, null from a single one. */
export interface StateSeen {
  word: string
  mean: number
  sd: number | null
}

export interface LearntStates {
  kind: 'levels'
  /** Lowest reading first. */
  words: string[]
  cuts: number[]
  band: number
  /** Of each cut: share of readings of either side that would fall beyond it. */
  wrong: number[]
}

/** So many scatters on either side of a cut are asked for. */
const APART = 3

/**
 * Two to five words from what the reading was while each was true: a cut where both sides are as many of their own
 * scatters away, a band that noise does not cross, and how often a reading would still fall on the wrong side.
 * @param step smallest difference the part can tell, in place of a scatter that is less or not known
 */
export function learnStates(seen: readonly StateSeen[], step: number): LearntStates | { kind: 'none'; reason: string } {
  if (seen.length < 2) return { kind: 'none', reason: 'two words at least are needed, each taken while it is true' }
  const sorted = [...seen].sort((a, b) => a.mean - b.mean)
  const scatter = (s: StateSeen) => Math.max(s.sd ?? 0, step)
  const cuts: number[] = []
  const wrong: number[] = []
  let band = Infinity
  for (const [i, low] of sorted.entries()) {
    const high = sorted[i + 1]
    if (!high) break
    const [a, b] = [scatter(low), scatter(high)]
    const z = (high.mean - low.mean) / (a + b)
    if (z < APART)
      return {
        kind: 'none',
        reason: `“${low.word}” and “${high.word}” are too close: ${(100 * normalTail(z)).toPrecision(2)} % of readings would be taken for the other`,
      }
    cuts.push((low.mean * b + high.mean * a) / (a + b))
    wrong.push(normalTail(z))
    // Wide enough for the noise of either, and never so wide that a word is not reached.
    band = Math.min(band, 2 * APART * Math.max(a, b), 2 * (z - APART) * Math.min(a, b))
  }
  return { kind: 'levels', words: sorted.map((s) => s.word), cuts, band, wrong }
}

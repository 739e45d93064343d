/** One length that pulses come in: how many, their mean and how far they are from it, µs. */
export interface Level {
  us: number
  spread: number
  count: number
}

/** Longest against shortest of two levels that are still taken for one. */
const LEAST_RATIO = 1.3

/**
 * The lengths that pulses come in, the shortest first: a list is cut at its widest relative gap again and again, as long
 * as what falls apart lies further apart than it is wide.
 */
export function levelsOf(pulses: readonly number[], most = 3): Level[] {
  const groups: number[][] = [[...pulses].sort((a, b) => a - b)]
  while (groups.length < most) {
    const cuts = groups.flatMap((g, i) => widestCut(g).map((c) => ({ ...c, i })))
    const best = cuts.sort((a, b) => b.clear - a.clear)[0]
    if (!best) break
    const group = groups[best.i] ?? []
    groups.splice(best.i, 1, group.slice(0, best.at), group.slice(best.at))
  }
  return groups.filter((g) => g.length > 0).map(level)
}

function level(group: readonly number[]): Level {
  const us = group.reduce((a, b) => a + b, 0) / group.length
  return { us, count: group.length, spread: Math.sqrt(group.reduce((a, b) => a + (b - us) ** 2, 0) / group.length) }
}

/** Where a sorted list falls apart most clearly; none where it is one heap. */
function widestCut(sorted: readonly number[]): { at: number; clear: number }[] {
  let best: { at: number; clear: number } | null = null
  for (let at = 1; at < sorted.length; at++) {
    const gap = (sorted[at] ?? 0) - (sorted[at - 1] ?? 0)
    if (gap < 12) continue
    const [low, high] = [level(sorted.slice(0, at)), level(sorted.slice(at))]
    const apart = high.us - low.us
    if (high.us < low.us * LEAST_RATIO || apart < 4 * (low.spread + high.spread)) continue
    const clear = gap / low.us
    if (!best || clear > best.clear) best = { at, clear }
  }
  return best ? [best] : []
}

/** The level a pulse belongs to, counted from the shortest. */
export function levelOf(levels: readonly Level[], us: number): number {
  let best = 0
  levels.forEach((l, i) => {
    if (Math.abs(us - l.us) < Math.abs(us - (levels[best]?.us ?? 0))) best = i
  })
  return best
}

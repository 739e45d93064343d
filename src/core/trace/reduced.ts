/**
 * Indices of at most `most` samples: lowest, highest and, where something in it is unknown, the first unknown one of each
 * stretch, so that no spike and no gap is lost. Rising.
 */
export function reducedIndices(value: ArrayLike<number | null>, most: number): number[] {
  const n = value.length
  if (n <= most) return Array.from({ length: n }, (_, i) => i)
  const each = Math.ceil((n * 3) / most)
  const out: number[] = []
  for (let at = 0; at < n; at += each) {
    let [low, high, gap] = [-1, -1, -1]
    for (let i = at; i < Math.min(n, at + each); i++) {
      const v = value[i] ?? NaN
      if (v !== v) {
        if (gap < 0) gap = i
        continue
      }
      if (low < 0 || v < (value[low] ?? 0)) low = i
      if (high < 0 || v > (value[high] ?? 0)) high = i
    }
    const kept = new Set([low, high, gap].filter((i) => i >= 0))
    out.push(...[...kept].sort((a, b) => a - b))
  }
  return out
}

/** Index of the first of rising times that is not before `at`; their number where all are before. */
export function firstAtOrAfter(s: ArrayLike<number>, at: number): number {
  let [low, high] = [0, s.length]
  while (low < high) {
    const middle = (low + high) >> 1
    if ((s[middle] ?? Infinity) < at) low = middle + 1
    else high = middle
  }
  return low
}

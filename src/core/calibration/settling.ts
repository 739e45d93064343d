/** A reading and when it was, ms. */
interface Stood {
  at: number
  value: number
}

/** Widths tried for three windows side by side, shortest first, ms. */
const WIDTHS_MS = [5000, 20_000, 60_000, 300_000] as const

/**
 * How long until a reading that comes to rest like 1 − e^(−t/τ) is within `near` of where it is going, s: from the means
 * of the last three windows of equal width, whose differences shrink by the same factor. 0: it is there. Null: nothing
 * like coming to rest is seen.
 * @param recent oldest first, `at` in ms
 */
export function settlesInS(recent: readonly Stood[], near: number): number | null {
  const end = recent.at(-1)?.at ?? 0
  let [known, moves] = [false, false]
  for (const width of WIDTHS_MS) {
    const means = [2, 1, 0].map((back) => {
      const inside = recent.filter((r) => r.at > end - (back + 1) * width && r.at <= end - back * width)
      return inside.length < 2 ? null : inside.reduce((a, r) => a + r.value, 0) / inside.length
    })
    const [a, b, c] = means
    if (a == null || b == null || c == null) return known && !moves ? 0 : null
    known = true
    const [first, second] = [b - a, c - b]
    if (Math.abs(second) <= near && Math.abs(first) <= near) continue
    moves = true
    const shrinks = second / first
    if (!(shrinks > 0 && shrinks < 0.98)) continue
    const tauMs = -width / Math.log(shrinks)
    // A mean over a window is larger than what is left at its end, by τ/w · (e^(w/τ) − 1).
    const atEnd = Math.abs(second) / ((tauMs / width) * (1 / shrinks - 1) ** 2)
    return atEnd <= near ? 0 : (tauMs * Math.log(atEnd / near)) / 1000
  }
  return known && !moves ? 0 : null
}

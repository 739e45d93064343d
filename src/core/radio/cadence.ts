/** How often something is heard, learnt from when it was. */
export interface Cadence {
  /** Middle of the intervals, s; null with fewer than three. */
  usualS: number | null
  /** Nine of ten intervals are shorter, s. */
  mostlyS: number | null
}

/** Times in ms, in any order. */
export function cadenceOf(times: readonly number[]): Cadence {
  const sorted = [...times].sort((a, b) => a - b)
  const gaps = sorted
    .slice(1)
    .map((t, i) => (t - (sorted[i] ?? 0)) / 1000)
    .sort((a, b) => a - b)
  if (gaps.length < 3) return { usualS: null, mostlyS: null }
  const at = (share: number) => gaps[Math.min(gaps.length - 1, Math.floor(share * gaps.length))] ?? 0
  return { usualS: at(0.5), mostlyS: at(0.9) }
}

/** Whether it has been silent for longer than fits: what was said of it, or else three times its long intervals. */
export function isSilent(lastMs: number | null, everyS: number, cadence: Cadence, nowMs: number): boolean {
  if (lastMs === null) return false
  const limitS = everyS > 0 ? everyS : 3 * (cadence.mostlyS ?? Infinity)
  return (nowMs - lastMs) / 1000 > limitS
}

/**
 * How sure a state still is, from 1 to 0: it falls evenly from when it was said to when it ends; a gateway that is away makes
 * it nought, for nobody would have heard.
 */
export function confidence(ageS: number, endS: number, heard: boolean): number {
  return heard ? Math.max(0, Math.min(1, 1 - ageS / endS)) : 0
}

/**
 * Fills of threads: found by `scripts/derive-palette.mjs`, figures in docs/decisions. The order spreads the first few
 * widest.
 */
export const HUES = ['#873CF0', '#004B00', '#C30F87', '#965A2D', '#780F5A', '#0000D2', '#4B69B4', '#4B0096'] as const

/**
 * Insulation colours as sold, matched to the hues by eye; green-yellow is for protective earth only and never proposed.
 */
export const INSULATION = ['violet', 'green', 'pink', 'brown', 'red', 'blue', 'grey', 'white'] as const

export function hueOf(signal: { hue: number }): string {
  return HUES[signal.hue] ?? HUES[0]
}

/** The hue fewest threads use; among equals the earliest. */
export function nextHue(used: readonly number[]): number {
  const counts = HUES.map((_, hue) => used.filter((u) => u === hue).length)
  const least = Math.min(...counts)
  const rare = HUES.map((_, hue) => hue).filter((hue) => counts[hue] === least)
  // Of those the one that was given away longest ago, so that equal hues stand far apart.
  return rare.reduce((best, hue) => (used.lastIndexOf(hue) < used.lastIndexOf(best) ? hue : best))
}

/** `L1`, `L2` … : the lowest number of this letter that is free. Null when all 99 are taken. */
export function nextTag(letter: string, used: readonly string[]): string | null {
  for (let n = 1; n < 100; n++) {
    if (!used.includes(`${letter}${n}`)) return `${letter}${n}`
  }
  return null
}

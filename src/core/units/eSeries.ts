/** Preferred values of IEC 60063, one decade. E12 and E24 are set by hand; E96 is the rounded geometric series. */
export const E24 = [
  1.0, 1.1, 1.2, 1.3, 1.5, 1.6, 1.8, 2.0, 2.2, 2.4, 2.7, 3.0, 3.3, 3.6, 3.9, 4.3, 4.7, 5.1, 5.6, 6.2, 6.8, 7.5, 8.2,
  9.1,
] as const
export const E12 = E24.filter((_, i) => i % 2 === 0)
export const E96 = Array.from({ length: 96 }, (_, i) => Math.round(10 ** (i / 96) * 100) / 100)
export const SERIES = { E12, E24, E96 } as const
export type SeriesName = keyof typeof SERIES

/** All E24 values from `min` to `max` ohm inclusive, ascending. */
export function e24Between(min: number, max: number): number[] {
  const out: number[] = []
  for (let decade = 1; decade <= 1e7; decade *= 10) {
    for (const v of E24) {
      const ohm = Math.round(v * decade * 10) / 10
      if (ohm >= min && ohm <= max) out.push(ohm)
    }
  }
  return out
}

/**
 * The value of a series nearest to `wanted` by ratio; `up` or `down` takes the next one not below or not above it. Any
 * unit, more than 0.
 */
export function nearestIn(series: SeriesName, wanted: number, toward: 'nearest' | 'up' | 'down' = 'nearest'): number {
  const decade = Math.floor(Math.log10(wanted) + 1e-12)
  const values = [decade - 1, decade, decade + 1].flatMap((d) => SERIES[series].map((v) => Number(`${v}e${d}`)))
  const slack = 1e-9
  const allowed = values.filter((v) => {
    if (toward === 'up') return v >= wanted * (1 - slack)
    if (toward === 'down') return v <= wanted * (1 + slack)
    return true
  })
  return allowed.reduce(
    (best, v) => (Math.abs(Math.log(v / wanted)) < Math.abs(Math.log(best / wanted)) - 1e-12 ? v : best),
    allowed[0] ?? wanted,
  )
}

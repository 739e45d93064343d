/** Preferred values of IEC 60063, one decade. */
export const E24 = [1.0, 1.1, 1.2, 1.3, 1.5, 1.6, 1.8, 2.0, 2.2, 2.4, 2.7, 3.0, 3.3, 3.6, 3.9, 4.3, 4.7, 5.1, 5.6, 6.2, 6.8, 7.5, 8.2, 9.1] as const

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

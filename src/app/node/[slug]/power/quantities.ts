/** `2.00 A`, `85.0 mA`, `150 µA`. */
export function amps(a: number): string {
  // What rounds to a thousand of one unit is told in the next.
  if (Math.abs(a) >= 0.9995) return `${a.toPrecision(3)} A`
  if (Math.abs(a) >= 0.0009995) return `${(a * 1000).toPrecision(3)} mA`
  return `${(a * 1e6).toPrecision(3)} µA`
}

/** `9 min 54 s`, `3.4 s`. */
export const seconds = (s: number): string =>
  s >= 90 ? `${Math.floor(s / 60)} min ${Math.round(s % 60)} s` : `${Number(s.toPrecision(2))} s`

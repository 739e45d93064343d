/** `85.0 mA`, `150 µA`. */
export const amps = (a: number): string =>
  a >= 0.001 ? `${(a * 1000).toPrecision(3)} mA` : `${(a * 1e6).toPrecision(3)} µA`

/** `9 min 54 s`, `3.4 s`. */
export const seconds = (s: number): string =>
  s >= 90 ? `${Math.floor(s / 60)} min ${Math.round(s % 60)} s` : `${Number(s.toPrecision(2))} s`

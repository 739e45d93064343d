/** `9 min 54 s`, `3.4 s`. */
export const seconds = (s: number): string =>
  s >= 90 ? `${Math.floor(s / 60)} min ${Math.round(s % 60)} s` : `${Number(s.toPrecision(2))} s`

const PREFIXES: [number, string][] = [
  [1e9, 'G'],
  [1e6, 'M'],
  [1e3, 'k'],
  [1, ''],
  [1e-3, 'm'],
  [1e-6, 'µ'],
  [1e-9, 'n'],
  [1e-12, 'p'],
]

/** `engineering(0.0153, 'A')` → `15.3 mA`. Three significant figures unless told otherwise. */
export function engineering(value: number, unit: string, figures = 3): string {
  if (value === 0) return `0 ${unit}`
  const size = Math.abs(Number(value.toPrecision(figures)))
  const [scale, prefix] = PREFIXES.find(([s]) => size >= s * 0.9999999) ?? [1e-12, 'p']
  return `${trim(value / scale, figures)} ${prefix}${unit}`
}

/** `fixed(3.1, 2)` → `3.10`; the minus is a true minus sign. */
export function fixed(value: number, decimals: number): string {
  return value
    .toFixed(decimals)
    .replace(/^-(?=0(\.0+)?$)/, '')
    .replace('-', '−')
}

export function signed(value: number, decimals: number): string {
  const text = fixed(value, decimals)
  return text.startsWith('−') ? text : `+${text}`
}

/** `ohms(4700)` → `4.7 kΩ`. */
export function ohms(value: number): string {
  return engineering(value, 'Ω')
}

/** `farads(0.001)` → `1000 µF`: as capacitors are sold. */
export function farads(value: number): string {
  return value >= 1e-6 ? `${trim(value * 1e6, 3)} µF` : engineering(value, 'F')
}

/** `volts(3.4231)` → `3.42 V`. */
export function volts(value: number): string {
  return `${fixed(value, 2)} V`
}

function trim(value: number, figures: number): string {
  return Number(value.toPrecision(figures)).toString().replace('-', '−')
}

/** `45 s`, `5 min`, `2 h`: a time in the largest unit that says it whole. */
export function durationWords(seconds: number): string {
  if (seconds >= 3600 && seconds % 3600 === 0) return `${seconds / 3600} h`
  return seconds >= 60 && seconds % 60 === 0 ? `${seconds / 60} min` : `${Number(seconds.toPrecision(6))} s`
}

/** `2.00 A`, `85.0 mA`, `150 µA`. */
export function amps(a: number): string {
  // What rounds to a thousand of one unit is told in the next.
  if (Math.abs(a) >= 0.9995) return `${a.toPrecision(3)} A`
  if (Math.abs(a) >= 0.0009995) return `${(a * 1000).toPrecision(3)} mA`
  return `${(a * 1e6).toPrecision(3)} µA`
}

import { amps, ohms, volts } from '../units/format'
import type { BringUpStep, Cause, MeterUnit, Verdict } from './step'

const AS: Readonly<Record<MeterUnit, (v: number) => string>> = {
  V: volts,
  Ω: ohms,
  A: amps,
  dBm: (v) => `${String(Math.round(v)).replace('-', '−')} dBm`,
}
export const meterWords = (unit: MeterUnit, value: number): string =>
  Number.isFinite(value) ? AS[unit](value) : 'any amount'

/** Within this share of what a cause would read, it is that one rather than another. */
const NEAR = 0.06

/**
 * What was found against what was expected: on which side it lies, and what may be the matter, the likeliest first. A
 * cause whose reading can be reckoned and fits counts before those that cannot; among those the order of the trade
 * stays.
 */
export function judge(step: BringUpStep, value: number): Verdict {
  if (step.expect.kind === 'seen') return { ok: true, side: 'within', words: 'Seen.', causes: [] }
  const { unit, min, max } = step.expect
  const found = meterWords(unit, value)
  if (!Number.isFinite(value)) return { ok: false, side: 'low', words: 'Not a number.', causes: step.causes }
  if (value >= min && value <= max)
    return {
      ok: true,
      side: 'within',
      words: Number.isFinite(max)
        ? `${found} lies between ${meterWords(unit, min)} and ${meterWords(unit, max)}.`
        : `${found} is ${meterWords(unit, min)} or more.`,
      causes: [],
    }
  const side = value < min ? 'low' : 'high'
  const limit = side === 'low' ? min : max
  return {
    ok: false,
    side,
    words: `${found} is ${side === 'low' ? 'below' : 'above'} ${meterWords(unit, limit)}: stop, and find out why before going on.`,
    causes: ranked(step.causes, side, value),
  }
}

function ranked(causes: readonly Cause[], side: 'low' | 'high', value: number): Cause[] {
  const off = (c: Cause) => (c.reads === undefined ? null : Math.abs(c.reads - value) / Math.max(0.05, Math.abs(value)))
  const fits = causes.filter((c) => (off(c) ?? 1) <= NEAR).sort((a, b) => (off(a) ?? 0) - (off(b) ?? 0))
  const rest = causes.filter((c) => !fits.includes(c) && (c.side === side || c.side === 'any'))
  return [...fits, ...rest]
}

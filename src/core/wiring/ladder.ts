import { e24Between } from '../units/eSeries'

export interface LadderKey {
  /** Resistor from the line to ground while this key is held, ohm; 0 for the last. */
  ohm: number
  /** Converter code at nominal values, and the span it can lie in. */
  code: number
  low: number
  high: number
}

export interface Ladder {
  pullOhm: number
  keys: LadderKey[]
  /** Least distance between the spans of two neighbouring states, codes; “no key” is one of them. Negative when spans overlap. */
  worstGap: number
}

export interface LadderWish { keys: number; pullOhm: number; tolerance: number; bits: number; converterError: number }

/**
 * One analog line with a resistor to ground behind each key. The line is pulled up to the converter's own reference, so ripple of the
 * supply cancels; what is left is the resistors' tolerance and the converter's error. V/V_ref = R / (R_pull + R).
 * Values of the E24 series are chosen nearest to equal steps of voltage, then each is moved to its neighbours while the worst gap grows.
 * `converterError` is a share of full scale, either way.
 */
export function chooseLadder(wish: LadderWish): Ladder {
  const { keys, pullOhm } = wish
  const series = e24Between(10, 1_000_000)
  const nearest = (ohm: number) => series.reduce((best, v) => (Math.abs(Math.log(v / ohm)) < Math.abs(Math.log(best / ohm)) ? v : best))
  // The last key shorts the line: the lowest code there is.
  let ohms = Array.from({ length: keys }, (_, i) => {
    const share = (keys - 1 - i) / keys
    return share === 0 ? 0 : nearest((pullOhm * share) / (1 - share))
  })
  let best = judgeLadder(ohms, wish)
  for (let better = true; better;) {
    better = false
    for (let i = 0; i < keys - 1; i++) {
      for (const by of [-1, 1]) {
        const at = series.indexOf(ohms[i] ?? 0)
        const value = series[at + by]
        if (value === undefined) continue
        const tried = ohms.map((o, k) => (k === i ? value : o))
        const judged = judgeLadder(tried, wish)
        if (judged.worstGap > best.worstGap + 1e-9) {
          ohms = tried
          best = judged
          better = true
        }
      }
    }
  }
  return best
}

/** The codes a ladder of these resistors gives, with the spans of tolerance and converter, and the worst gap between neighbours. */
export function judgeLadder(ohms: readonly number[], { pullOhm, tolerance: t, bits, converterError }: LadderWish): Ladder {
  const full = 2 ** bits - 1
  const code = (ohm: number, pull: number) => (full * ohm) / (ohm + pull)
  const error = full * converterError
  const keys = ohms.map((ohm): LadderKey => ({
    ohm, code: code(ohm, pullOhm),
    low: code(ohm * (1 - t), pullOhm * (1 + t)) - error, high: code(ohm * (1 + t), pullOhm * (1 - t)) + error,
  }))
  const spans = [{ low: full - error, high: full + error }, ...keys].sort((a, b) => b.low - a.low)
  const gaps = spans.slice(1).map((s, i) => (spans[i]?.low ?? 0) - s.high)
  return { pullOhm, keys, worstGap: Math.min(...gaps) }
}

import type { Board } from '../catalog/board'
import { e24Between } from '../units/eSeries'

export const LADDER_PULL_OHM = 4700
/** Converters on these chips are off by about this share of full scale over the useful middle. */
const CONVERTER_ERROR = 0.01

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
  /**
   * Least distance between the spans of two neighbouring states, codes; “no key” is one of them. Negative when spans
   * overlap.
   */
  worstGap: number
}

export interface LadderRequirement {
  keys: number
  pullOhm: number
  tolerance: number
  bits: number
  /** Share of full scale, either way. */
  converterError: number
  /** Highest voltage that is measured well, and the voltage of the highest code, V. */
  maxV: number
  fullV: number
  supplyV: number
  /** How far the supply moves against the converter's reference, either way; 0 where the supply is the reference. */
  ripple: number
  /** Divider on the board that loads the line, ohm. */
  loadOhm: number
}

/** What a board's converter makes of a ladder to its 3.3 V, with resistors of 1 % unless said. */
export function ladderRequirement(
  { analog, supplyV, logicV }: Board,
  keys: number,
  tolerance = 0.01,
): LadderRequirement {
  return {
    keys,
    pullOhm: LADDER_PULL_OHM,
    tolerance,
    bits: analog.bits,
    converterError: CONVERTER_ERROR,
    maxV: analog.maxV,
    fullV: analog.fullV,
    supplyV: logicV,
    ripple: analog.reference === 'supply' ? 0 : (supplyV.max - supplyV.min) / 2 / logicV,
    loadOhm: analog.loadOhm ?? Infinity,
  }
}

/**
 * One analog line with a resistor to ground behind each key and one pull-up: V = V_DD · R' / (R_pull + R'), R' = R ‖
 * board's load. What is left between neighbours after the resistors' tolerance, the supply's ripple and the converter's
 * error is the gap. Values of the E24 series are chosen nearest to equal steps of the voltage that can be measured,
 * then each is moved while the worst gap grows.
 */
export function chooseLadder(wish: LadderRequirement): Ladder {
  const { keys, pullOhm } = wish
  const series = e24Between(10, 1_000_000)
  const nearest = (ohm: number) =>
    series.reduce((best, v) => (Math.abs(Math.log(v / ohm)) < Math.abs(Math.log(best / ohm)) ? v : best))
  // The last key shorts the line: the lowest code there is.
  let ohms = Array.from({ length: keys }, (_, i) => {
    const share = ((keys - 1 - i) / keys) * Math.min(1, wish.maxV / wish.supplyV)
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

/**
 * The codes a ladder of these resistors gives, with their spans, and the worst gap between neighbours; “no key” is one
 * of them.
 */
export function judgeLadder(
  ohms: readonly number[],
  { pullOhm, tolerance: t, bits, converterError, maxV, fullV, supplyV, ripple, loadOhm }: LadderRequirement,
): Ladder {
  const full = 2 ** bits - 1
  // Above what is measured well every voltage may read as any other.
  const code = (volts: number) => (full * Math.min(volts, maxV)) / fullV
  const at = (ohm: number, pull: number, supply: number) => {
    const loaded = ohm === 0 ? 0 : 1 / (1 / ohm + 1 / loadOhm)
    return code((supply * loaded) / (loaded + pull))
  }
  const error = full * converterError
  const span = (ohm: number): LadderKey => ({
    ohm,
    code: at(ohm, pullOhm, supplyV),
    low: at(ohm * (1 - t), pullOhm * (1 + t), supplyV * (1 - ripple)) - error,
    high: at(ohm * (1 + t), pullOhm * (1 - t), supplyV * (1 + ripple)) + error,
  })
  const keys = ohms.map(span)
  const spans = [span(1e12), ...keys].sort((a, b) => b.low - a.low)
  const gaps = spans.slice(1).map((s, i) => (spans[i]?.low ?? 0) - s.high)
  return { pullOhm, keys, worstGap: Math.min(...gaps) }
}

import { e24Between } from '../units/eSeries'

export interface DividerLevels {
  /** Highest pin voltage: highest input, both resistors at the tolerance ends that raise it, V. */
  highestV: number
  /** Lowest pin voltage that has to read as high, V. */
  lowestV: number
  /** 10–90 % edge time with the pin's own capacitance, s. */
  edgeS: number
  /** Current drawn from the source at its highest, A. */
  sourceA: number
}

export interface DividerInput {
  minV: number
  maxV: number
  topOhm: number
  bottomOhm: number
  tolerance: number
  capacitanceF: number
}

/**
 * Levels behind a divider at the ends of its resistors' tolerance. V = V_in · R_bottom / (R_top + R_bottom), t = 2.2 ·
 * R‖ · C.
 */
export function dividerLevels({
  minV,
  maxV,
  topOhm,
  bottomOhm,
  tolerance: t,
  capacitanceF,
}: DividerInput): DividerLevels {
  const ratio = (top: number, bottom: number) => bottom / (top + bottom)
  return {
    highestV: maxV * ratio(topOhm * (1 - t), bottomOhm * (1 + t)),
    lowestV: minV * ratio(topOhm * (1 + t), bottomOhm * (1 - t)),
    edgeS: 2.2 * ((topOhm * bottomOhm) / (topOhm + bottomOhm)) * capacitanceF,
    sourceA: maxV / (topOhm + bottomOhm),
  }
}

export interface DividerWish {
  minV: number
  maxV: number
  /** The pin's absolute maximum, V. */
  limitV: number
  /** Level from which the pin surely reads high, V. */
  readsHighV: number
  maxSourceA: number
  tolerance: number
  capacitanceF: number
}

const PAIR_VALUES = e24Between(1000, 10_000)

/**
 * The E24 pair that leaves the largest share of margin on both sides, or null when no pair keeps both limits. Equal
 * margins: the higher total.
 */
export function chooseDivider(wish: DividerWish): { topOhm: number; bottomOhm: number; levels: DividerLevels } | null {
  const { minV, maxV, limitV, readsHighV, maxSourceA, tolerance: t } = wish
  let best: { topOhm: number; bottomOhm: number; margin: number } | null = null
  for (const topOhm of PAIR_VALUES) {
    for (const bottomOhm of PAIR_VALUES) {
      if (maxV / (topOhm + bottomOhm) > maxSourceA) continue
      const highestV = (maxV * bottomOhm * (1 + t)) / (topOhm * (1 - t) + bottomOhm * (1 + t))
      const lowestV = (minV * bottomOhm * (1 - t)) / (topOhm * (1 + t) + bottomOhm * (1 - t))
      const margin = Math.min(1 - highestV / limitV, lowestV / readsHighV - 1)
      if (margin <= 0) continue
      const better =
        !best ||
        margin > best.margin + 1e-9 ||
        (Math.abs(margin - best.margin) <= 1e-9 && topOhm + bottomOhm > best.topOhm + best.bottomOhm)
      if (better) best = { topOhm, bottomOhm, margin }
    }
  }
  return best && { topOhm: best.topOhm, bottomOhm: best.bottomOhm, levels: dividerLevels({ ...wish, ...best }) }
}

const SCALE_VALUES = e24Between(1000, 20_000)

/**
 * A 1 % E24 pair that brings `maxV`, behind `sourceOhm`, to just below `fullV` at the resistors' worst case, with 10 kΩ
 * at most as the pin sees it; null when nothing has to be divided.
 */
export function scaleDivider(maxV: number, fullV: number, sourceOhm = 0): { topOhm: number; bottomOhm: number } | null {
  if (maxV <= fullV) return null
  let best: { topOhm: number; bottomOhm: number; highestV: number } | null = null
  for (const topOhm of SCALE_VALUES) {
    for (const bottomOhm of SCALE_VALUES) {
      const highestV = (maxV * bottomOhm * 1.01) / (sourceOhm + topOhm * 0.99 + bottomOhm * 1.01)
      if (
        highestV > fullV ||
        ((sourceOhm + topOhm) * bottomOhm) / (sourceOhm + topOhm + bottomOhm) > 5000 + sourceOhm / 2
      )
        continue
      if (!best || highestV > best.highestV + 1e-9) best = { topOhm, bottomOhm, highestV }
    }
  }
  return best && { topOhm: best.topOhm, bottomOhm: best.bottomOhm }
}

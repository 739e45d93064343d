import { engineering, volts } from '../units/format'
import { step } from '../working/working'
import { field, type Calculation } from './calculation'

/** Copper at 20 °C, Ω·mm²/m, and its rise with temperature per K. */
export const COPPER = 0.0175
export const COPPER_PER_K = 0.0039
/** Conductors are judged warm, °C. */
export const WARM_C = 40
export const GAUGES = [0.14, 0.22, 0.34, 0.5, 0.75, 1, 1.5, 2.5, 4, 6] as const

/** Voltage lost on the way there and back, V. ΔV = 2 · L · ρ · I / A. */
export function wireDropV(lengthM: number, loadA: number, gaugeMm2: number, temperatureC = WARM_C): number {
  return (2 * lengthM * COPPER * (1 + COPPER_PER_K * (temperatureC - 20)) * loadA) / gaugeMm2
}

/**
 * What a single conductor in a bundle carries without getting hot, A: 6 A/mm², a cautious figure for short extra-low
 * voltage wiring.
 */
export function ampacityA(gaugeMm2: number): number {
  return 6 * gaugeMm2
}

export const wireCalculation: Calculation = {
  id: 'wire',
  title: 'Voltage on the way',
  chooses: 'gauge',
  source: 'ρ of copper 0.0175 Ω·mm²/m at 20 °C, +0.39 % per K, there and back, judged at 40 °C.',
  fields: [
    field('supplyV', 'supply', 'V', 0.5, 60),
    field('needsV', 'the part needs', 'V', 0, 60),
    field('lengthM', 'length', 'm', 0.01, 500),
    field('loadA', 'load', 'A', 1e-5, 60),
    field('value', 'gauge', 'mm²', 0.05, 10),
  ],
  solve: ({ supplyV = 5, needsV = 0, lengthM = 1, loadA = 0.1, value = 0.22 }) => {
    const dropV = wireDropV(lengthM, loadA, value)
    const left = supplyV - dropV
    const ok = left >= needsV && loadA <= ampacityA(value)
    const spare = Math.min(supplyV - needsV, supplyV * 0.05)
    const whyNot = left < needsV ? `The part needs ${volts(needsV)}.` : 'More current than this wire should carry.'
    return {
      steps: [
        step(
          'lost on the wire',
          'ΔV = 2 · L · ρ · I / A',
          `2 · ${lengthM} m · 0.0189 Ω·mm²/m · ${engineering(loadA, 'A')} / ${value} mm²`,
          engineering(dropV, 'V'),
        ),
        step('left at the part', 'V = V_supply,min − ΔV', `${volts(supplyV)} − ${volts(dropV)}`, volts(left)),
        step('what the wire carries', 'I = 6 A/mm² · A', `6 · ${value}`, engineering(ampacityA(value), 'A')),
      ],
      ok,
      words: ok ? `${((dropV / supplyV) * 100).toFixed(1)} % lost; the part has enough.` : whyNot,
      ideal: spare > 0 ? Math.max(wireDropV(lengthM, loadA, 1) / spare, loadA / 6) : null,
    }
  },
}

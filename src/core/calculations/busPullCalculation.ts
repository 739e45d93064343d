import { engineering, farads, ohms, volts } from '../units/format'
import { step } from '../working/working'
import { field, type Calculation } from './calculation'

/** Rise from 30 to 70 % of an RC edge takes 0.8473 · R · C. */
export const RISE_FACTOR = 0.8473
/** Longest rise the bus specification allows, s, by clock. */
export const RISE_S = { standard: 1000e-9, fast: 300e-9 } as const
export const SINK_A = 0.003
export const LOW_V = 0.4
export const MOST_F = 400e-12

/** Limits of the pull-up of a two-wire bus, ohm. R_min = (V_DD − 0.4 V) / 3 mA; R_max = t_r / (0.8473 · C). */
export function busPullLimits(
  supplyV: number,
  riseS: number,
  capacitanceF: number,
): { minOhm: number; maxOhm: number } {
  return { minOhm: (supplyV - LOW_V) / SINK_A, maxOhm: riseS / (RISE_FACTOR * capacitanceF) }
}

export const parallel = (ohm: readonly number[]): number => 1 / ohm.reduce((sum, r) => sum + 1 / r, 0)

export const busPullCalculation: Calculation = {
  id: 'bus-pull',
  title: 'Pull-up of a bus',
  chooses: 'resistor',
  source: 'The I²C bus specification: 3 mA at 0.4 V, rise of 1000 ns at 100 kHz and 300 ns at 400 kHz, 400 pF.',
  fields: [
    field('supplyV', 'supply', 'V', 1, 6),
    field('capacitanceF', 'capacitance', 'F', 1e-12, 1e-8),
    field('riseS', 'rise allowed', 's', 1e-8, 1e-5),
    field('modulesOhm', 'the modules’ own, together', 'Ω', 100, 1e9),
    field('value', 'pull-up to add', 'Ω', 100, 1e6),
  ],
  solve: ({ supplyV = 3.3, capacitanceF = 1e-10, riseS = 1e-6, modulesOhm = 1e9, value = 4700 }) => {
    const { minOhm, maxOhm } = busPullLimits(supplyV, riseS, capacitanceF)
    const together = parallel([modulesOhm, value])
    const ok = together >= minOhm && together <= maxOhm
    const middle = Math.sqrt(minOhm * maxOhm)
    const whyNot =
      together < minOhm
        ? 'Too strong: a part cannot pull the line low.'
        : 'Too weak: the edge is slower than the bus allows.'
    return {
      steps: [
        step('least', 'R_min = (V_DD − 0.4 V) / 3 mA', `(${volts(supplyV)} − 0.40 V) / 3 mA`, ohms(minOhm)),
        step(
          'most',
          'R_max = t_r / (0.8473 · C)',
          `${engineering(riseS, 's')} / (0.8473 · ${farads(capacitanceF)})`,
          ohms(maxOhm),
        ),
        step(
          'all together',
          'R = R_add ‖ R_modules',
          `${ohms(value)} ‖ ${modulesOhm >= 1e8 ? 'none' : ohms(modulesOhm)}`,
          ohms(together),
        ),
      ],
      ok,
      words: ok ? 'Between both limits.' : whyNot,
      ideal: middle < modulesOhm ? 1 / (1 / middle - 1 / modulesOhm) : null,
    }
  },
}

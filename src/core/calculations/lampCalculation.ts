import { engineering, ohms, volts } from '../units/format'
import { step } from '../working/working'
import { field, type Calculation } from './calculation'

/**
 * Current through a lamp diode behind a resistor, A; 0 when the supply does not reach its forward voltage. I = (V −
 * V_F) / R.
 */
export function lampA(supplyV: number, forwardV: number, ohm: number): number {
  return Math.max(0, (supplyV - forwardV) / ohm)
}

export const lampCalculation: Calculation = {
  id: 'series',
  title: 'Series resistor',
  chooses: 'resistor',
  source: 'Ohm’s law with the forward voltage of the lamp’s data sheet; limit of the pin from the chip’s.',
  fields: [
    field('supplyV', 'supply', 'V', 0, 60),
    field('forwardV', 'across the lamp', 'V', 0, 60),
    field('wantsA', 'current wanted', 'A', 1e-5, 5),
    field('limitA', 'at most', 'A', 1e-5, 5),
    field('value', 'resistor', 'Ω', 1, 1e7),
  ],
  solve: ({ supplyV = 0, forwardV = 0, wantsA = 0.01, limitA = 1, value = 1 }) => {
    const a = lampA(supplyV, forwardV, value)
    const ok = a <= limitA && supplyV > forwardV
    const whyNot =
      supplyV <= forwardV ? 'The supply does not reach the lamp’s voltage.' : `More than ${engineering(limitA, 'A')}.`
    return {
      steps: [
        step(
          'resistor wanted',
          'R = (V − V_F) / I',
          `(${volts(supplyV)} − ${volts(forwardV)}) / ${engineering(wantsA, 'A')}`,
          ohms(Math.max(0, (supplyV - forwardV) / wantsA)),
        ),
        step(
          'current then',
          'I = (V − V_F) / R',
          `(${volts(supplyV)} − ${volts(forwardV)}) / ${ohms(value)}`,
          engineering(a, 'A'),
        ),
        step(
          'heat of the resistor',
          'P = I² · R',
          `${engineering(a, 'A')}² · ${ohms(value)}`,
          engineering(a * a * value, 'W'),
        ),
      ],
      ok,
      words: ok ? 'Within what the pin gives.' : whyNot,
      ideal: supplyV > forwardV ? (supplyV - forwardV) / wantsA : null,
    }
  },
}

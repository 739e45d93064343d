import { engineering, ohms, volts } from '../units/format'
import { step } from '../working/working'
import { field, type Calculation } from './calculation'

/** Base resistor that saturates a transistor: R_B = (V_OH − V_BE) · β / I_C, with a forced gain β of 10 to 20. */
export function baseOhm(highV: number, loadA: number, forcedGain: number, baseV = 0.8): number {
  return ((highV - baseV) * forcedGain) / loadA
}

export const transistorCalculation: Calculation = {
  id: 'transistor',
  title: 'Transistor stage',
  chooses: 'resistor',
  source: 'Saturation with a forced gain of 10 to 20, as small-signal transistors are specified.',
  fields: [
    field('highV', 'pin high', 'V', 0.9, 6),
    field('loadA', 'load', 'A', 1e-4, 5),
    field('gain', 'forced gain', '1', 5, 100),
    field('limitA', 'pin gives', 'A', 1e-4, 0.1),
    field('value', 'base resistor', 'Ω', 10, 1e6),
  ],
  solve: ({ highV = 3.2, loadA = 0.07, gain = 15, limitA = 0.012, value = 1000 }) => {
    const baseA = (highV - 0.8) / value
    const forced = loadA / baseA
    const ok = forced <= 20 && baseA <= limitA
    const whyNot =
      baseA > limitA
        ? `The pin gives ${engineering(limitA, 'A')} at most: take a FET.`
        : 'Too weak: the transistor would stay half open and get hot.'
    return {
      steps: [
        step(
          'base resistor wanted',
          'R_B = (V_OH − V_BE) · β / I_C',
          `(${volts(highV)} − 0.80 V) · ${gain} / ${engineering(loadA, 'A')}`,
          ohms(baseOhm(highV, loadA, gain)),
        ),
        step(
          'current of the base',
          'I_B = (V_OH − V_BE) / R_B',
          `(${volts(highV)} − 0.80 V) / ${ohms(value)}`,
          engineering(baseA, 'A'),
        ),
        step(
          'gain it then has to have',
          'β = I_C / I_B',
          `${engineering(loadA, 'A')} / ${engineering(baseA, 'A')}`,
          forced.toFixed(1),
        ),
      ],
      ok,
      words: ok ? 'Saturated, and the pin can give it.' : whyNot,
      ideal: baseOhm(highV, loadA, gain),
    }
  },
}

import { engineering, ohms, volts } from '../units/format'
import { step } from '../working/working'
import { field, type Calculation } from './calculation'

/** Current that keeps a plain contact clean, A. */
export const WETTING_A = 0.0003

export const pullCalculation: Calculation = {
  id: 'pull',
  title: 'Pull of a contact',
  chooses: 'resistor',
  source:
    'Leakage over the resistor against the threshold; a few tenths of a milliampere keep contacts clean, more on long wires.',
  fields: [
    field('supplyV', 'supply', 'V', 1, 6),
    field('highV', 'reads high from', 'V', 0.5, 6),
    field('leakA', 'leaks when open', 'A', 0, 0.01),
    field('wettingA', 'wanted when closed', 'A', 1e-6, 0.02),
    field('value', 'resistor', 'Ω', 100, 1e6),
  ],
  solve: ({ supplyV = 3.3, highV = 2.5, leakA = 1e-6, wettingA = WETTING_A, value = 10_000 }) => {
    const open = supplyV - leakA * value
    const closedA = supplyV / value
    const ok = open >= highV && closedA >= wettingA * 0.9
    const whyNot =
      open < highV ? `Does not read high: ${volts(highV)} are needed.` : 'Little current for a contact on a long wire.'
    return {
      steps: [
        step(
          'open',
          'V = VDD − I_leak · R',
          `${volts(supplyV)} − ${engineering(leakA, 'A')} · ${ohms(value)}`,
          volts(open),
        ),
        step('closed', 'I = VDD / R', `${volts(supplyV)} / ${ohms(value)}`, engineering(closedA, 'A')),
      ],
      ok,
      words: ok ? 'Reads surely, and keeps the contact clean.' : whyNot,
      ideal: supplyV / wettingA,
    }
  },
}

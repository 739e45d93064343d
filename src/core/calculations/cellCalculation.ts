import { engineering, volts } from '../units/format'
import { step } from '../working/working'
import { field, type Calculation } from './calculation'

/** `7.5 h`, `12 days`, `14 months`. */
function lifeWords(hours: number): string {
  if (hours < 72) return `${hours.toFixed(1)} h`
  const days = hours / 24
  return days < 90 ? `${days.toFixed(0)} days` : `${(days / 30.44).toFixed(0)} months`
}

export const cellCalculation: Calculation = {
  id: 'cell',
  title: 'Cell under load',
  chooses: null,
  source: 'Sag over the inner resistance; Peukert left out, as loads here are small against the cell.',
  fields: [
    field('emptyV', 'at the end of discharge', 'V', 0.5, 60),
    field('innerOhm', 'inner resistance', 'Ω', 0, 50),
    field('peakA', 'peak', 'A', 0, 20),
    field('needsV', 'needs', 'V', 0, 60),
    field('capacityAh', 'capacity', 'Ah', 0.001, 1000),
    field('meanA', 'mean current, sleep and all', 'A', 1e-7, 20),
  ],
  solve: ({ emptyV = 3, innerOhm = 0.1, peakA = 0.4, needsV = 3.3, capacityAh = 2, meanA = 0.1 }) => {
    const under = emptyV - innerOhm * peakA
    const ok = under >= needsV
    return {
      steps: [
        step(
          'left under the peak',
          'V = V_empty − R_i · I',
          `${volts(emptyV)} − ${engineering(innerOhm, 'Ω')} · ${engineering(peakA, 'A')}`,
          volts(under),
        ),
        step(
          'lasts',
          't = C / I',
          `${capacityAh} Ah / ${engineering(meanA, 'A')}`,
          `${lifeWords(capacityAh / meanA)} at most: without its own discharge, cold and age`,
        ),
      ],
      ok,
      words: ok ? 'Holds to its end.' : `Falls below ${volts(needsV)} under its peak before the cell is empty.`,
      ideal: null,
    }
  },
}

import { engineering, volts } from '../units/format'
import { step } from '../working/working'
import { field, type Calculation } from './calculation'

/** A small package stands this much warming over its surroundings for long, K. */
export const MOST_RISE_K = 60

export function regulatorRiseK(inV: number, outV: number, loadA: number, riseKPerW: number): number {
  return Math.max(0, inV - outV) * loadA * riseKPerW
}

export const regulatorCalculation: Calculation = {
  id: 'regulator',
  title: 'Heat of the regulator',
  chooses: null,
  source: 'P = (V_in − V_out)·I, ΔT = P·θ_JA with the package’s figure.',
  fields: [
    field('inV', 'in', 'V', 0, 40),
    field('outV', 'out', 'V', 0, 40),
    field('dropoutV', 'drop-out', 'V', 0, 5),
    field('loadA', 'load', 'A', 0, 5),
    field('riseKPerW', 'warming', 'K/W', 0, 500),
  ],
  solve: ({ inV = 5, outV = 3.3, dropoutV = 0, loadA = 0.1, riseKPerW = 100 }) => {
    const rise = regulatorRiseK(inV, outV, loadA, riseKPerW)
    const head = inV - dropoutV >= outV
    const ok = rise <= MOST_RISE_K && head
    const whyNot = head ? `More than ${MOST_RISE_K} K over its surroundings.` : 'It cannot hold its output.'
    return {
      steps: [
        step(
          'headroom',
          'V_in − V_dropout ≥ V_out',
          `${volts(inV)} − ${volts(dropoutV)} against ${volts(outV)}`,
          volts(inV - dropoutV - outV),
        ),
        step(
          'heat',
          'P = (V_in − V_out) · I',
          `(${volts(inV)} − ${volts(outV)}) · ${engineering(loadA, 'A')}`,
          engineering(Math.max(0, inV - outV) * loadA, 'W'),
        ),
        step(
          'warming',
          'ΔT = P · θ_JA',
          `${engineering(Math.max(0, inV - outV) * loadA, 'W')} · ${riseKPerW} K/W`,
          `${rise.toFixed(0)} K`,
        ),
      ],
      ok,
      words: ok ? 'Warm at most.' : whyNot,
      ideal: null,
    }
  },
}

import { engineering } from '../units/format'
import { step } from '../working/working'
import { field, type Calculation } from './calculation'
import { ampacityA } from './wireCalculation'

export const FUSES = [0.25, 0.5, 0.63, 0.8, 1, 1.25, 1.6, 2, 2.5, 3.15, 4, 5, 6.3, 8, 10, 16] as const

/**
 * The smallest fuse that stands the load for long and still protects the wire, A; null when the wire is too thin for
 * the load.
 */
export function chooseFuse(loadA: number, gaugeMm2: number): number | null {
  return FUSES.find((f) => f >= loadA * 1.25 && f <= ampacityA(gaugeMm2)) ?? null
}

export const fuseCalculation: Calculation = {
  id: 'fuse',
  title: 'Fuse',
  chooses: 'fuse',
  source: 'A fuse protects the wire: at least 1.25 times the load, at most what the wire carries.',
  fields: [
    field('loadA', 'load at most', 'A', 0, 60),
    field('gaugeMm2', 'wire', 'mm²', 0.05, 10),
    field('value', 'fuse', 'A', 0.05, 63),
  ],
  solve: ({ loadA = 1, gaugeMm2 = 0.5, value = 1 }) => {
    const ok = value >= loadA * 1.25 && value <= ampacityA(gaugeMm2)
    const whyNot = value < loadA * 1.25 ? 'Would blow under load.' : 'The wire would burn before it blows.'
    return {
      steps: [
        step('at least', 'I_F ≥ 1.25 · I_load', `1.25 · ${engineering(loadA, 'A')}`, engineering(loadA * 1.25, 'A')),
        step('at most', 'I_F ≤ 6 A/mm² · A', `6 · ${gaugeMm2}`, engineering(ampacityA(gaugeMm2), 'A')),
      ],
      ok,
      words: ok ? 'Stands the load and protects the wire.' : whyNot,
      ideal: loadA * 1.25,
    }
  },
}

import { ohms } from '../units/format'
import { chooseLadder } from '../wiring/ladder'
import { step } from '../working/working'
import { field, type Calculation } from './calculation'

export const ladderCalculation: Calculation = {
  id: 'ladder',
  title: 'Keys on one analog line',
  chooses: null,
  source:
    'Divider at both ends of tolerance, ripple of the supply where the converter has a reference of its own, converter error 1 %.',
  fields: [
    field('keys', 'keys', '1', 1, 16),
    field('pullOhm', 'pull-up', 'Ω', 500, 1e5),
    field('tolerance', 'tolerance', '1', 0, 0.2),
    field('bits', 'bits', '1', 8, 16),
    field('maxV', 'measured up to', 'V', 0.5, 5),
    field('fullV', 'highest code at', 'V', 0.5, 5),
    field('ripple', 'supply ripple', '1', 0, 0.1),
    field('loadOhm', 'board’s own load', 'Ω', 1e3, 1e9),
  ],
  solve: (v) => {
    const ladder = chooseLadder({
      keys: Math.round(v.keys ?? 5),
      pullOhm: v.pullOhm ?? 4700,
      tolerance: v.tolerance ?? 0.01,
      bits: Math.round(v.bits ?? 12),
      converterError: 0.01,
      maxV: v.maxV ?? 3.3,
      fullV: v.fullV ?? 3.3,
      supplyV: 3.3,
      ripple: v.ripple ?? 0,
      loadOhm: v.loadOhm ?? 1e9,
    })
    return {
      steps: ladder.keys.map((k, i) =>
        step(
          `key ${i + 1}`,
          'V = V_DD · R / (R_pull + R)',
          k.ohm === 0 ? '0 Ω' : ohms(k.ohm),
          `${Math.round(k.low)} … ${Math.round(k.high)}`,
        ),
      ),
      ok: ladder.worstGap > 0,
      words:
        ladder.worstGap > 0
          ? `Neighbours stay ${Math.floor(ladder.worstGap)} codes apart.`
          : `Neighbours overlap by ${Math.ceil(-ladder.worstGap)} codes.`,
      ideal: null,
    }
  },
}

import { engineering, ohms, volts } from '../units/format'
import { step } from '../working/working'
import { field, type Calculation } from './calculation'

/** Forward voltage of the coupler's lamp, and what it stands for long, as common parts state them. */
export const COUPLER = { forwardV: 1.2, mostA: 0.02, transfer: 0.5, transferFromA: 0.002 } as const

/** Pulls inside chips spread: the strongest is about two thirds of the usual resistance. */
export const STRONGEST_PULL = 0.67

export interface CouplerState {
  leastA: number
  mostA: number
  neededA: number
  gives: number
}

/**
 * Currents of a coupler input over the range of its voltage. I_F = (V − V_F) / R at both ends of tolerance; I_C = V_DD
 * / R_pull ≤ ½ · CTR · I_F.
 */
export function couplerState(o: {
  minV: number
  maxV: number
  seriesOhm: number
  tolerance: number
  supplyV: number
  pullOhm: number
}): CouplerState {
  const leastA = Math.max(0, (o.minV - COUPLER.forwardV) / (o.seriesOhm * (1 + o.tolerance)))
  return {
    leastA,
    mostA: Math.max(0, (o.maxV - COUPLER.forwardV) / (o.seriesOhm * (1 - o.tolerance))),
    neededA: o.supplyV / o.pullOhm,
    gives: (COUPLER.transfer / 2) * leastA,
  }
}

/** Series resistor for 5 mA at the middle of the range, ohm. */
export function couplerOhm(minV: number, maxV: number): number {
  return ((minV + maxV) / 2 - COUPLER.forwardV) / 0.005
}

export const couplerCalculation: Calculation = {
  id: 'coupler',
  title: 'Optocoupler input',
  chooses: 'resistor',
  source:
    'Coupler data sheets: 1.2 V across the lamp, 50 % transfer or more at 5 mA, halved for its age and for small currents.',
  fields: [
    field('minV', 'lowest voltage', 'V', 0, 400),
    field('maxV', 'highest voltage', 'V', 0, 400),
    field('supplyV', 'supply of the pull', 'V', 1, 6),
    field('pullOhm', 'pull at the pin', 'Ω', 100, 1e6),
    field('tolerance', 'tolerance', '1', 0, 0.2),
    field('value', 'series resistor', 'Ω', 10, 1e6),
  ],
  solve: ({ minV = 10, maxV = 14, supplyV = 3.4, pullOhm = 30_000, tolerance = 0.05, value = 2200 }) => {
    const s = couplerState({ minV, maxV, seriesOhm: value, tolerance, supplyV, pullOhm })
    const ok = s.leastA >= COUPLER.transferFromA && s.mostA <= COUPLER.mostA && s.gives >= s.neededA
    const whyNot =
      s.mostA > COUPLER.mostA
        ? `More than ${engineering(COUPLER.mostA, 'A')}: the lamp ages fast.`
        : 'Too little current to pull the pin low surely.'
    return {
      steps: [
        step(
          'least current',
          'I = (V_min − V_F) / (R·(1+t))',
          `(${volts(minV)} − 1.20 V) / ${ohms(value * (1 + tolerance))}`,
          engineering(s.leastA, 'A'),
        ),
        step(
          'most current',
          'I = (V_max − V_F) / (R·(1−t))',
          `(${volts(maxV)} − 1.20 V) / ${ohms(value * (1 - tolerance))}`,
          engineering(s.mostA, 'A'),
        ),
        step(
          'the pull needs',
          'I_C = V_DD / R_pull',
          `${volts(supplyV)} / ${ohms(pullOhm)}`,
          engineering(s.neededA, 'A'),
        ),
        step(
          'the coupler surely gives',
          'I_C = ½ · CTR · I_F',
          `½ · 0.5 · ${engineering(s.leastA, 'A')}`,
          engineering(s.gives, 'A'),
        ),
      ],
      ok,
      words: ok ? 'Lit surely, and not too hard.' : whyNot,
      ideal: couplerOhm(minV, maxV) > 0 ? couplerOhm(minV, maxV) : null,
    }
  },
}

import { type SeriesName, nearestIn } from '../units/eSeries'
import { engineering, farads } from '../units/format'
import { busPullCalculation } from './busPullCalculation'
import { cellCalculation } from './cellCalculation'
import { couplerCalculation } from './couplerCalculation'
import { dividerCalculation } from './dividerCalculation'
import { filterCalculation } from './filterCalculation'
import { FUSES, fuseCalculation } from './fuseCalculation'
import { ladderCalculation } from './ladderCalculation'
import { lampCalculation } from './lampCalculation'
import { pullCalculation } from './pullCalculation'
import { regulatorCalculation } from './regulatorCalculation'
import type { Calculation, CalculationAnswer, Values } from './calculation'
import { transistorCalculation } from './transistorCalculation'
import { GAUGES, wireCalculation } from './wireCalculation'

export const CALCULATIONS = {
  divider: dividerCalculation,
  series: lampCalculation,
  transistor: transistorCalculation,
  pull: pullCalculation,
  'bus-pull': busPullCalculation,
  coupler: couplerCalculation,
  ladder: ladderCalculation,
  wire: wireCalculation,
  regulator: regulatorCalculation,
  fuse: fuseCalculation,
  filter: filterCalculation,
  cell: cellCalculation,
} as const satisfies Record<string, Calculation>
export type SumId = keyof typeof CALCULATIONS

/** A value that can be bought, how far it is from the ideal one, and what the sum says with it. */
export interface Offer {
  series: SeriesName | 'as sold'
  value: number
  text: string
  off: number
  answer: CalculationAnswer
}

/**
 * What can be bought near the ideal value: one of each series, or the next sizes as sold. Empty where nothing is
 * chosen.
 */
export function offersOf(id: SumId, values: Values): Offer[] {
  const sum: Calculation = CALCULATIONS[id]
  const ideal = sum.solve(values).ideal
  if (sum.chooses === null || ideal === null || !(ideal > 0) || !Number.isFinite(ideal)) return []
  const offer = (series: Offer['series'], value: number, unit: string): Offer => {
    const inUnit = unit === 'F' ? farads(value) : engineering(value, unit)
    return {
      series,
      value,
      text: unit === 'mm²' ? `${value} mm²` : inUnit,
      off: value / ideal - 1,
      answer: sum.solve({ ...values, value }),
    }
  }
  if (sum.chooses === 'gauge' || sum.chooses === 'fuse') {
    const sizes: readonly number[] = sum.chooses === 'gauge' ? GAUGES : FUSES
    return sizes
      .filter((s) => s >= ideal * 0.999)
      .slice(0, 3)
      .map((s) => offer('as sold', s, sum.chooses === 'gauge' ? 'mm²' : 'A'))
  }
  const unit = sum.chooses === 'resistor' ? 'Ω' : 'F'
  return (['E12', 'E24', 'E96'] as const).map((series) => offer(series, nearestIn(series, ideal), unit))
}

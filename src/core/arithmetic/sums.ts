import { type SeriesName, nearestIn } from '../units/eSeries'
import { engineering, farads } from '../units/format'
import { busPullSum } from './busPullSum'
import { cellSum } from './cellSum'
import { couplerSum } from './couplerSum'
import { dividerSum } from './dividerSum'
import { filterSum } from './filterSum'
import { FUSES, fuseSum } from './fuseSum'
import { ladderSum } from './ladderSum'
import { lampSum } from './lampSum'
import { pullSum } from './pullSum'
import { regulatorSum } from './regulatorSum'
import type { Sum, SumAnswer, Values } from './sum'
import { transistorSum } from './transistorSum'
import { GAUGES, wireSum } from './wireSum'

export const SUMS = {
  divider: dividerSum,
  series: lampSum,
  transistor: transistorSum,
  pull: pullSum,
  'bus-pull': busPullSum,
  coupler: couplerSum,
  ladder: ladderSum,
  wire: wireSum,
  regulator: regulatorSum,
  fuse: fuseSum,
  filter: filterSum,
  cell: cellSum,
} as const satisfies Record<string, Sum>
export type SumId = keyof typeof SUMS

/** A value that can be bought, how far it is from the ideal one, and what the sum says with it. */
export interface Offer {
  series: SeriesName | 'as sold'
  value: number
  text: string
  off: number
  answer: SumAnswer
}

/**
 * What can be bought near the ideal value: one of each series, or the next sizes as sold. Empty where nothing is
 * chosen.
 */
export function offersOf(id: SumId, values: Values): Offer[] {
  const sum: Sum = SUMS[id]
  const ideal = sum.solve(values).ideal
  if (sum.chooses === null || ideal === null || !(ideal > 0) || !Number.isFinite(ideal)) return []
  const offer = (series: Offer['series'], value: number, unit: string): Offer => ({
    series,
    value,
    text: unit === 'mm²' ? `${value} mm²` : unit === 'F' ? farads(value) : engineering(value, unit),
    off: value / ideal - 1,
    answer: sum.solve({ ...values, value }),
  })
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

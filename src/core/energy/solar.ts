import type { Spread } from './spread'
import { spread } from './spread'

/** Hours of full sun a day in December by northern latitude, rough: from darkest to brightest years and places. */
const DECEMBER: readonly (readonly [number, number, number])[] = [
  [35, 2.3, 3],
  [40, 2, 2.5],
  [45, 1, 1.6],
  [50, 0.6, 1],
  [55, 0.3, 0.6],
  [60, 0.1, 0.3],
]
/** What of a panel's rated power a cell gets: angle, dirt, charger. */
const HARVEST = 0.6
const BAD_DAYS = 3

/** Full sun in December, h a day, at a latitude of 35 to 60 degrees. */
export function decemberHours(latitude: number): Spread {
  const at = Math.min(60, Math.max(35, Math.abs(latitude)))
  const i = Math.max(
    1,
    DECEMBER.findIndex(([lat]) => lat >= at),
  )
  const [a, b] = [DECEMBER[i - 1], DECEMBER[i]]
  if (!a || !b) throw new RangeError(`no December at ${latitude}`)
  const share = (at - a[0]) / (b[0] - a[0])
  const [low, high] = [a[1] + (b[1] - a[1]) * share, a[2] + (b[2] - a[2]) * share]
  return spread(low, (low + high) / 2, high)
}

/** Panel that carries the mean current through December, W, and charge for three days without sun, Ah. */
export function panelFor(meanA: number, cellV: number, latitude: number): { panelW: Spread; bridgeAh: number } {
  const hours = decemberHours(latitude)
  const wattHours = meanA * 24 * cellV
  const panel = (h: number) => wattHours / (h * HARVEST)
  return {
    panelW: spread(panel(hours.high), panel(hours.likely), panel(hours.low)),
    bridgeAh: meanA * 24 * BAD_DAYS,
  }
}

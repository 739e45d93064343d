import type { DriverName } from '../catalog/drivers'
import { type Spread, spread } from './spread'

/**
 * From power to a reading, s, as the runtime does it: parts are begun one after the other and waited for side by side, so
 * the slowest decides. Times of the parts' data sheets and of the runtime's own rounds.
 */
export const CONVERSION_S: Partial<Record<DriverName, Spread>> = {
  onewire: spread(0.75, 0.8, 0.95),
  ranger: spread(0.03, 0.05, 0.3),
  i2c: spread(0.03, 0.08, 0.2),
  spi: spread(0.1, 0.2, 0.35),
  adc: spread(0.005, 0.01, 0.26),
  converter: spread(0.02, 0.05, 0.15),
  serial: spread(0.1, 0.6, 1.2),
  counter: spread(0.001, 0.005, 0.02),
  contact: spread(0.02, 0.05, 0.1),
  presence: spread(0.1, 0.3, 1),
}

/** Times to be on the air, s, by link and address. */
export const JOIN_S: Record<'fixed' | 'lease', Spread> = {
  fixed: spread(0.4, 0.6, 0.9),
  lease: spread(2, 3.2, 6),
}
export const LOGIN_S = spread(0.1, 0.2, 0.3)
export const PEER_S = spread(0.02, 0.04, 0.06)
export const BACK_S = spread(0.05, 0.15, 0.4)

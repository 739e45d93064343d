import { curveAt } from '../calibration/curve'
import type { Channel } from '../catalog/part'
import type { Signal } from '../model/design'
import { unitFactor } from '../units/convert'

const LOOKED_AT = 65

/**
 * Least and greatest number a reading can be published as, in the signal's unit: the part's own range through geometry,
 * calibration and rounding. The board's chain refuses what is outside of the range before all of them.
 */
export function publishedRange(
  { range, unit }: Extract<Channel, { access: 'reading' }>,
  { conditioning, calibration, publish }: Signal,
): { min: number; max: number } {
  const values: number[] = []
  for (let i = 0; i < LOOKED_AT; i++) {
    const reading = range.min + ((range.max - range.min) * i) / (LOOKED_AT - 1)
    const placed = conditioning.mountM === null ? reading : conditioning.mountM - reading
    const value = calibration?.curve
      ? curveAt(calibration.curve, placed)
      : placed * (calibration?.gain ?? 1) + (calibration?.offset ?? 0)
    if (Number.isFinite(value)) values.push(value * unitFactor(unit, publish.unit))
  }
  const step = 10 ** publish.decimals
  return { min: Math.floor(Math.min(...values) * step) / step, max: Math.ceil(Math.max(...values) * step) / step }
}

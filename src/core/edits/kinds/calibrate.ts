import { z } from 'zod'
import { curveAt } from '../../calibration/curve'
import type { Catalog } from '../../catalog/catalog'
import { calibrationSchema } from '../../calibration/calibrationSchema'
import { type Design, idSchema, type Signal } from '../../model/design'
import { channelOf } from '../../publish/channelOf'
import { designEdit } from '../designEdit'
import { tagOf } from '../names'
import { putSignal, refuse, type Step, withSignal } from '../step'

const schema = z.strictObject({
  kind: z.literal('calibrate'),
  signalId: idSchema,
  calibration: calibrationSchema.nullable(),
})

/** The calibration a signal computes with, or none. */
export const calibrate = designEdit({
  schema,
  touches: ['signals'],
  apply: (design, edit, catalog) =>
    withSignal(design, edit.signalId, (s) => calibrated(design, edit.signalId, s, edit.calibration, catalog)),
  words: (edit, design) =>
    edit.calibration
      ? `calibrate ${tagOf(design, edit.signalId)}`
      : `drop the calibration of ${tagOf(design, edit.signalId)}`,
})

/** A calibration that could make sense for this quantity: its offset within what its range and gain can ask for. */
function calibrated(
  design: Design,
  id: string,
  signal: Signal,
  calibration: Signal['calibration'],
  catalog: Catalog,
): Step {
  const channel = channelOf(design, catalog, signal)
  if (calibration && signal.of !== null)
    return refuse(`${signal.tag} is made of a reading: there is nothing to calibrate`, 'that reading')
  if (calibration && channel?.access === 'reading') {
    const { curve, span } = calibration
    if (curve !== null && (calibration.gain !== 1 || calibration.offset !== 0))
      return refuse('a calibration is a line or a curve, not both', 'a gain of 1 and an offset of 0 beside a curve')
    const ends = [span?.min ?? channel.range.min, span?.max ?? channel.range.max]
    if (curve !== null && !ends.every((x) => Number.isFinite(curveAt(curve, x))))
      return refuse(
        `the curve gives no number within ${ends.join(' to ')} ${channel.unit}`,
        'other pairs, or another model',
      )
    const widest = Math.max(Math.abs(channel.range.min), Math.abs(channel.range.max))
    const most = widest * (1 + Math.abs(calibration.gain))
    if (Math.abs(calibration.offset) > most)
      return refuse(
        `an offset of ${calibration.offset} ${channel.unit} is more than ${signal.tag} can be off by`,
        `−${most} to ${most} ${channel.unit}`,
      )
  }
  return putSignal(design, id, { ...signal, calibration })
}

import { inOrder } from '../../model/design'
import { channelOf } from '../../publish/channelOf'
import { report, type Rule } from '../context'

/** A reading that is published as the part is sold. */
export const notCalibrated: Rule = {
  id: 'not-calibrated',
  severity: 'note',
  when: 'A reading is published without a calibration.',
  source: 'Data sheet of the part.',
  check: ({ design, catalog }) =>
    inOrder(design.signals).flatMap(({ id, value: signal }) => {
      const part = design.parts[signal.partId]
      const channel = channelOf(design, catalog, signal)
      if (!part || channel?.access !== 'reading' || signal.calibration) return []
      return [
        report(id, {
          bench: 'tune',
          signalId: id,
          partId: signal.partId,
          sentence: `${part.label} is not calibrated: ${channel.asSold.words}.`,
        }),
      ]
    }),
}

import { byOne } from '../remedies'
import { inOrder } from '../../model/design'
import { channelOf } from '../../publish/channelOf'
import { report, type Rule, signalOfPart } from '../context'

/** Parts that need longer to be ready than a waking lasts. */
export const warmUpTooLong: Rule = {
  id: 'warm-up-too-long',
  severity: 'fix',
  when: 'A node sleeps, and a part of it has to warm up after power or would be read too early.',
  source: 'Data sheet of the part: time until it can be believed.',
  check: ({ design, parts, catalog }) =>
    design.sleep === null
      ? []
      : parts.flatMap(({ id, part, kind }) => {
          if (
            !kind.warmUp ||
            !inOrder(design.signals).some(
              ({ value }) => value.partId === id && channelOf(design, catalog, value)?.access !== 'output',
            )
          )
            return []
          return [
            report(id, {
              bench: 'parts',
              partId: id,
              signalId: signalOfPart(design, id),
              sentence: `${part.label} needs ${kind.warmUp.s} s after power: ${kind.warmUp.why} A node that wakes for seconds never believes it; fed all the time it empties the cell.`,
              remedies: [byOne('Do not sleep', { kind: 'sleep', everyS: null })],
            }),
          ]
        }),
}

import { byOne } from '../remedies'
import { isKey } from '../../catalog/drivers'
import { report, type Rule, signalOfPart } from '../context'

const SOURCE = 'Current finds its way back through the other held keys of a matrix without diodes.'

/** Keys of a matrix that appear without being pressed. */
export const matrixGhosts: Rule = {
  id: 'matrix-ghosts',
  severity: 'note',
  when: 'A key matrix has no diodes, and three keys held at once look like four.',
  source: SOURCE,
  check: ({ design, parts }) =>
    parts.flatMap(({ id, part, kind }) =>
      part.settings.diodes !== 'no' || !kind.channels.some((c) => isKey(c.driver))
        ? []
        : [
            report(id, {
              partId: id,
              signalId: signalOfPart(design, id),
              sentence: `${part.label} has no diodes: one or two keys at once are read, three in a corner look like four. Its rows are driven open-drain, so that nothing is harmed.`,
              remedies: [
                byOne('Fit a diode to each key', { kind: 'set-part', partId: id, setting: 'diodes', value: 'yes' }),
              ],
            }),
          ],
    ),
}

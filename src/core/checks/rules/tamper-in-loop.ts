import { meansOf } from '../../catalog/part'
import { isLoop } from '../../wiring/analogPath'
import { about, report, type Rule } from '../context'

/** A tamper contact in the loop it protects. */
export const tamperInLoop: Rule = {
  id: 'tamper-in-loop',
  severity: 'note',
  when: 'A tamper contact lies in series with the contact of its loop, and one level stands for both.',
  source: 'Two contacts in series make one signal; resistors of different value beside each make them two.',
  check: ({ design, lines }) =>
    lines.flatMap((line) =>
      !meansOf(line.kind, line.part.settings).tamper || isLoop(line)
        ? []
        : [
            report(line.key, {
              ...about(design, line),
              sentence: `${line.part.label}: its tamper contact is in the same loop, so an opened cover reads like its own signal. Told apart only on an input of its own, or by end resistors at an analog one.`,
            }),
          ],
    ),
}

import { adding } from '../remedies'
import { isKey } from '../../catalog/drivers'
import { addedOn } from '../../model/design'
import { farads, ohms } from '../../units/format'
import { analogPath, isLoop, seenOhm } from '../../wiring/analogPath'
import { about, componentIdOf, freeNames, report, type Rule } from '../context'

const MOST_OHM = 10_000
const SOURCE = 'Chip data sheet: the converter charges a small capacitor through the source in each sample.'

/** A source too weak for the converter. */
export const adcSource: Rule = {
  id: 'adc-source',
  severity: 'fix',
  when: 'The resistance the converter sees is above 10 kΩ, and no capacitor helps it.',
  source: SOURCE,
  check: ({ design, catalog, board, analogLines }) =>
    analogLines.flatMap((line) => {
      // A converter on a bus takes its time and has an amplifier in front.
      if (
        line.hosted ||
        isLoop(line) ||
        line.kind.channels.some((c) => isKey(c.driver)) ||
        addedOn(design, line.key, 'capacitor')
      )
        return []
      const path = analogPath(design, catalog, board, line)
      // A resistor that is measured is seen at its highest in parallel with its pull.
      const { sensor } = line.terminal
      const measured = sensor && sensor.kind !== 'potentiometer'
      const unpulled = measured && path.upOhm === Infinity
      const ohm = unpulled ? 0 : seenOhm(measured ? { ...path, sourceOhm: sensor.maxOhm } : path)
      if (ohm <= MOST_OHM) return []
      return [
        report(line.key, {
          ...about(design, line),
          sentence: `${line.part.label} reaches the converter through ${ohms(ohm)}: without a capacitor readings come out low and lean on one another.`,
          steps: [
            { gives: 'source', formula: '(R_s + R1) ‖ R2 ‖ R_pull', numbers: 'at its highest', result: ohms(ohm) },
          ],
          remedies: [
            adding(`Add ${farads(1e-7)} at the pin`, componentIdOf(line.key, 'capacitor'), {
              type: 'capacitor',
              line: line.key,
              names: freeNames(design, 'C'),
              farad: 1e-7,
            }),
          ],
          calculation: {
            id: 'filter' as const,
            target: { line: line.key },
            given: { ohm, wantsS: 0.001, value: 1e-7 },
          },
        }),
      ]
    }),
}

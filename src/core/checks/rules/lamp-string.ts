import { adding } from '../remedies'
import { supplyCurrents } from '../../catalog/part'
import { addedOn } from '../../model/design'
import { engineering } from '../../units/format'
import { about, componentIdOf, freeNames, report, type Reported, type Rule } from '../context'

/** Current the thin supply strips of a string carry before its far lamps turn yellow, A. */
const FEED_A = 3
const DATA_OHM = 330
const SOURCE =
  'Practice for strings at 5 V: a feed for each 3 A or fifty lamps, and 300 to 500 Ω at the first lamp against ringing and a dead first pixel.'

/** A long string fed at one end only, or a data line straight at its first lamp. */
export const lampString: Rule = {
  id: 'lamp-string',
  severity: 'fix',
  when: 'Addressable lamps take more than their own strips carry from one end, or their data line has no resistor.',
  source: SOURCE,
  check: ({ design, lines }) =>
    lines.flatMap((line): Reported[] => {
      const supply = line.kind.terminals.find((t) => t.role === 'supply' && t.per)
      if (!line.kind.channels.some((c) => c.driver === 'string') || supply?.role !== 'supply') return []
      const { peakA } = supplyCurrents(supply, line.part.settings, line.kind)
      const feeds = Math.ceil(peakA / FEED_A)
      const out: Reported[] = []
      if (feeds > 1) {
        out.push(
          report(`${line.key}:feed`, {
            severity: 'note',
            ...about(design, line),
            sentence: `${line.part.label} takes ${engineering(peakA, 'A')} at full white: lead plus and minus to it at ${feeds} places, both ends among them, each behind its own fuse.`,
            steps: [
              {
                gives: 'places',
                formula: 'I / 3 A',
                numbers: `${engineering(peakA, 'A')} / 3 A`,
                result: String(feeds),
              },
            ],
          }),
        )
      }
      if (!addedOn(design, line.key, 'series') && design.plan.pins[line.key] !== undefined) {
        out.push(
          report(`${line.key}:data`, {
            severity: 'note',
            ...about(design, line),
            sentence: `${line.part.label}: a resistor of 330 Ω at the first lamp keeps its data line from ringing.`,
            remedies: [
              adding('Add 330 Ω in series', componentIdOf(line.key, 'series'), {
                type: 'series',
                line: line.key,
                names: freeNames(design, 'R'),
                ohm: DATA_OHM,
                tolerance: 0.05,
              }),
            ],
          }),
        )
      }
      return out
    }),
}

import { lineName } from '../../lines/lines'
import { report, type Rule } from '../context'

/** Longest cable of a bus before it needs care, and before it fails, m. */
const LIMITS = {
  i2c: { care: 1, fails: 2 },
  spi: { care: 0.3, fails: 0.6 },
  'one-wire': { care: 20, fails: 50 },
  uart: { care: 5, fails: 15 },
} as const
const SOURCE = 'Practice: I²C 1 to 2 m, SPI 0.3 m, one-wire tens of metres in one run and not as a star.'

/** A bus on more cable than it stands. */
export const busTooLong: Rule = {
  id: 'bus-too-long',
  severity: 'fix',
  when: 'The cable of a bus is longer than its edges or its timing stand.',
  source: SOURCE,
  check: ({ lines }) =>
    lines.flatMap((line) => {
      // Said once a bus, on its first line.
      if (!line.bus || !['sda', 'sck', 'data', 'rx'].includes(line.bus.role)) return []
      const limit = LIMITS[line.bus.kind]
      const lengthM = line.members.reduce((sum, m) => sum + m.part.cableM, 0)
      const star = line.bus.kind === 'one-wire' && line.members.filter((m) => m.part.cableM > 3).length > 2
      if (lengthM <= limit.care && !star) return []
      return [
        report(line.key, {
          severity: lengthM > limit.fails || star ? 'fix' : 'note',
          partId: line.partId,
          sentence: star
            ? `${lineName(line)} goes out as a star of ${line.members.length} long cables; one-wire wants one run from part to part.`
            : `${lineName(line)} runs over ${lengthM.toFixed(1)} m; up to ${limit.care} m is safe. Slower, shorter, or a line driver at both ends.`,
          steps: [
            {
              gives: 'cable',
              formula: 'Σ L',
              numbers: line.members.map((m) => `${m.part.label} ${m.part.cableM} m`).join(', '),
              result: `${lengthM.toFixed(1)} m`,
            },
          ],
        }),
      ]
    }),
}

import { replacing } from '../remedies'
import { meansOf } from '../../catalog/part'
import { addedOn } from '../../model/design'
import { E24, nearestIn } from '../../units/eSeries'
import { engineering, ohms, volts } from '../../units/format'
import { analogPath } from '../../wiring/analogPath'
import { about, componentIdOf, freeNames, report, type Reported, type Rule } from '../context'
import type { EditBody } from '../../edits/edit'

const SOURCE =
  'A current transformer’s voltage swings about zero by 1.41 times its effective value; a pin stands no more than 0.3 V below ground. I_s = I / turns, V = I_s · R_burden.'
/** Highest effective current the transformer is sold for, A. */
const RATED_A = 30
const AMPLITUDE_V = 1.42

/** Something that swings about zero, at a pin that stands nothing below ground. */
export const swingsBelowGround: Rule = {
  id: 'swings-below-ground',
  severity: 'stop',
  when: 'A current transformer is at a pin without a middle voltage, or without a burden, or swings further than the converter measures.',
  source: SOURCE,
  check: ({ design, catalog, board, analogLines }) =>
    analogLines.flatMap((line): Reported[] => {
      if (!line.terminal.swings) return []
      const { minV, maxV } = analogPath(design, catalog, board, line).converter
      const turns = meansOf(line.kind, line.part.settings).bareTurns
      const bias = addedOn(design, line.key, 'bias')
      const burden = addedOn(design, line.key, 'burden')
      const amplitudeOf = (ohm: number) => (turns === undefined ? AMPLITUDE_V : (Math.SQRT2 * RATED_A * ohm) / turns)
      const [lowEnd, highEnd] = [Math.max(minV, 0.02), Math.min(maxV, board.logicV)]
      const wantedV = (lowEnd + highEnd) / 2
      const burdenOhm = nearestIn('E24', ((highEnd - lowEnd) / 2 / Math.SQRT2 / RATED_A) * (turns ?? 1), 'down')
      const pair = middlePair(board.logicV, wantedV)
      const names = freeNames(design, 'R', 'R', 'C', 'R')
      const edits: EditBody[] = [
        ...(bias
          ? []
          : [
              {
                kind: 'add-component' as const,
                componentId: componentIdOf(line.key, 'bias'),
                component: {
                  type: 'bias' as const,
                  line: line.key,
                  names: [names[0], names[1], names[2]] as [string, string, string],
                  ...pair,
                  farad: 1e-5,
                  tolerance: 0.01,
                },
              },
            ]),
        ...(turns !== undefined && !burden
          ? [
              {
                kind: 'add-component' as const,
                componentId: componentIdOf(line.key, 'burden'),
                component: {
                  type: 'burden' as const,
                  line: line.key,
                  names: [names[3]] as [string],
                  ohm: burdenOhm,
                  tolerance: 0.01,
                },
              },
            ]
          : []),
      ]
      if (edits.length > 0) {
        const missing = [
          ...(bias ? [] : ['no middle voltage: half of each swing goes below ground and into the pin’s protection']),
          ...(turns !== undefined && !burden ? ['no burden: an open transformer makes dangerous voltages'] : []),
        ]
        return [
          report(line.key, {
            ...about(design, line),
            sentence: `${line.part.label} has ${missing.join(', and ')}.`,
            steps: [
              {
                gives: 'swings by',
                formula: turns === undefined ? '√2 · V' : '√2 · I / turns · R_burden',
                numbers:
                  turns === undefined
                    ? '√2 · 1 V'
                    : `√2 · ${RATED_A} A / ${turns} · ${ohms(burden?.value.ohm ?? burdenOhm)}`,
                result: volts(amplitudeOf(burden?.value.ohm ?? burdenOhm)),
              },
            ],
            remedies: [
              {
                label: `Middle of ${volts(wantedV)}${turns === undefined || burden ? '' : ` and ${ohms(burdenOhm)} across it`}`,
                edits,
              },
            ],
          }),
        ]
      }
      if (!bias) return []
      const middleV = (board.logicV * bias.value.bottomOhm) / (bias.value.topOhm + bias.value.bottomOhm)
      const room = Math.min(middleV - lowEnd, highEnd - middleV)
      const amplitudeV = amplitudeOf(burden?.value.ohm ?? 0)
      if (amplitudeV <= room * 1.03) return []
      return [
        report(line.key, {
          severity: 'fix',
          ...about(design, line),
          sentence: `${line.part.label} swings by ${volts(amplitudeV)} about ${volts(middleV)} at ${RATED_A} A; the converter measures ${volts(lowEnd)} to ${volts(highEnd)}: above ${engineering((RATED_A * room) / amplitudeV, 'A')} it is clipped.`,
          remedies:
            turns === undefined || !burden || burden.value.ohm <= burdenOhm
              ? []
              : [
                  replacing(`Change ${burden.value.names[0]} to ${ohms(burdenOhm)}`, burden.id, burden.id, {
                    ...burden.value,
                    ohm: burdenOhm,
                  }),
                ],
        }),
      ]
    }),
}

/** Two resistors of E24 near 10 kΩ that make this voltage of the supply. */
function middlePair(supplyV: number, wantedV: number): { topOhm: number; bottomOhm: number } {
  const bottomOhm = 10_000
  const top = (bottomOhm * (supplyV - wantedV)) / wantedV
  return {
    topOhm: E24.map((e) => e * (top < 10_000 ? 1000 : 10_000)).reduce((a, b) =>
      Math.abs(b - top) < Math.abs(a - top) ? b : a,
    ),
    bottomOhm,
  }
}

import type { PlanLine } from '../../lines/lines'
import { replacing } from '../remedies'
import { meansOf } from '../../catalog/part'
import { type AddedComponent, addedOn } from '../../model/design'
import { E24, nearestIn } from '../../units/eSeries'
import { engineering, ohms, volts } from '../../units/format'
import { analogPath } from '../../wiring/analogPath'
import { type CheckContext, type Reported, type Rule, about, componentIdOf, freeNames, report } from '../context'
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
  check: (context) => context.analogLines.flatMap((line) => judge(context, line) ?? []),
}

/** What a swing about zero meets: the converter's span, the middle and the burden that are there or wanted. */
function meets({ design, catalog, board }: CheckContext, line: PlanLine) {
  const { minV, maxV } = analogPath(design, catalog, board, line).converter
  const turns = meansOf(line.kind, line.part.settings).bareTurns
  const [lowEnd, highEnd] = [Math.max(minV, 0.02), Math.min(maxV, board.logicV)]
  const burdenOhm = nearestIn('E24', ((highEnd - lowEnd) / 2 / Math.SQRT2 / RATED_A) * (turns ?? 1), 'down')
  const bias = addedOn(design, line.key, 'bias')
  const burden = addedOn(design, line.key, 'burden')
  const amplitudeV = (ohm: number) => (turns === undefined ? AMPLITUDE_V : (Math.SQRT2 * RATED_A * ohm) / turns)
  return { turns, lowEnd, highEnd, burdenOhm, bias, burden, amplitudeV, unburdened: turns !== undefined && !burden }
}
type Meets = ReturnType<typeof meets>

function judge(context: CheckContext, line: PlanLine): Reported | null {
  if (!line.terminal.swings) return null
  const met = meets(context, line)
  return !met.bias || met.unburdened ? incomplete(context, line, met) : clipped(context, line, met)
}

function incomplete({ design, board }: CheckContext, line: PlanLine, met: Meets): Reported {
  const { turns, bias, burden, burdenOhm, unburdened } = met
  const wantedV = (met.lowEnd + met.highEnd) / 2
  const names = freeNames(design, 'R', 'R', 'C', 'R')
  const add = (component: AddedComponent): EditBody => ({
    kind: 'add-component',
    componentId: componentIdOf(line.key, component.type),
    component,
  })
  const edits: EditBody[] = []
  const missing: string[] = []
  if (!bias) {
    missing.push('no middle voltage: half of each swing goes below ground and into the pin’s protection')
    const pair = middlePair(board.logicV, wantedV)
    const own: [string, string, string] = [names[0], names[1], names[2]]
    edits.push(add({ type: 'bias', line: line.key, names: own, ...pair, farad: 1e-5, tolerance: 0.01 }))
  }
  if (unburdened) {
    missing.push('no burden: an open transformer makes dangerous voltages')
    edits.push(add({ type: 'burden', line: line.key, names: [names[3]], ohm: burdenOhm, tolerance: 0.01 }))
  }
  const ohm = burden?.value.ohm ?? burdenOhm
  return report(line.key, {
    ...about(design, line),
    sentence: `${line.part.label} has ${missing.join(', and ')}.`,
    steps: [
      {
        gives: 'swings by',
        formula: turns === undefined ? '√2 · V' : '√2 · I / turns · R_burden',
        numbers: turns === undefined ? '√2 · 1 V' : `√2 · ${RATED_A} A / ${turns} · ${ohms(ohm)}`,
        result: volts(met.amplitudeV(ohm)),
      },
    ],
    remedies: [{ label: `Middle of ${volts(wantedV)}${unburdened ? ` and ${ohms(burdenOhm)} across it` : ''}`, edits }],
  })
}

function clipped({ design, board }: CheckContext, line: PlanLine, met: Meets): Reported | null {
  const { bias, burden, burdenOhm, lowEnd, highEnd } = met
  if (!bias) return null
  const middleV = (board.logicV * bias.value.bottomOhm) / (bias.value.topOhm + bias.value.bottomOhm)
  const room = Math.min(middleV - lowEnd, highEnd - middleV)
  const amplitudeV = met.amplitudeV(burden?.value.ohm ?? 0)
  if (amplitudeV <= room * 1.03) return null
  const tooLarge = met.turns !== undefined && burden && burden.value.ohm > burdenOhm ? burden : null
  return report(line.key, {
    severity: 'fix',
    ...about(design, line),
    sentence: `${line.part.label} swings by ${volts(amplitudeV)} about ${volts(middleV)} at ${RATED_A} A; the converter measures ${volts(lowEnd)} to ${volts(highEnd)}: above ${engineering((RATED_A * room) / amplitudeV, 'A')} it is clipped.`,
    remedies: tooLarge
      ? [
          replacing(`Change ${tooLarge.value.names[0]} to ${ohms(burdenOhm)}`, tooLarge.id, tooLarge.id, {
            ...tooLarge.value,
            ohm: burdenOhm,
          }),
        ]
      : [],
  })
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

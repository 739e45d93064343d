import { inputMaxV } from '../catalog/board'
import { lineName, type PlanLine, planLines } from '../lines/lines'
import { addedOn } from '../model/design'
import { railOf } from '../power/rails'
import { ohms, volts } from '../units/format'
import { dividerLevels } from '../wiring/divider'
import { step as working } from '../working/working'
import type { BringingUp } from './bringUpPlan'
import type { BringUpStep, Cause } from './step'

/** Stage 4: behind each divider, with its input at full voltage and the pin not yet connected. */
export function dividerSteps(of: BringingUp): BringUpStep[] {
  const { design, catalog, board } = of
  return planLines(design, catalog).flatMap((line): BringUpStep[] => {
    const divider = addedOn(design, line.key, 'divider')
    const pin = design.plan.pins[line.key]
    if (!divider || pin === undefined) return []
    const { lowV, highV } = inputSpan(of, line)
    const { topOhm, bottomOhm } = divider.value
    const [top = 'the upper resistor', bottom = 'the lower resistor'] = divider.value.names
    const at = dividerLevels({ minV: lowV, maxV: highV, ...divider.value, capacitanceF: 0 })
    const max = Math.min(inputMaxV(board), at.highestV)
    const share = (over: number, under: number) => (highV * under) / (over + under)
    return [
      {
        key: `divider:${line.key}`,
        stage: 4,
        title: `${lineName(line)} behind its divider`,
        how: `${line.part.label} fed, its output held high, the wire to ${pin} not connected yet. Meter on volts DC between the joint of ${top} and ${bottom} and ground.`,
        why: `${pin} stands ${volts(inputMaxV(board))}.`,
        expect: {
          kind: 'value',
          unit: 'V',
          min: round(at.lowestV),
          max: round(max),
          working: {
            steps: [
              working(
                'lowest',
                'U_low · R_u / (R_o + R_u), resistors at the ends of their tolerance',
                `${volts(lowV)} · ${ohms(bottomOhm)} / (${ohms(topOhm)} + ${ohms(bottomOhm)})`,
                volts(at.lowestV),
              ),
              working(
                'highest',
                'U_high · R_u / (R_o + R_u), the other ends',
                `${volts(highV)} · ${ohms(bottomOhm)} / (${ohms(topOhm)} + ${ohms(bottomOhm)})`,
                volts(at.highestV),
              ),
            ],
            source: 'the design’s resistors and the part’s output',
          },
        },
        causes: dividerCauses({ highV, topOhm, bottomOhm, top, bottom, share }),
        watch: null,
        caution: null,
        bench: { path: '/wires', words: 'Other resistors are in: carry them back on the Wires bench' },
        signalId: signalOf(of, line.key),
        lines: [{ key: line.key, name: lineName(line) }],
      },
    ]
  })
}

interface Resistors {
  highV: number
  topOhm: number
  bottomOhm: number
  top: string
  bottom: string
  share: (over: number, under: number) => number
}

/** What a divider reads when something of it is not as drawn: reckoned, so that the reading itself tells. */
function dividerCauses({ highV, topOhm, bottomOhm, top, bottom, share }: Resistors): Cause[] {
  const cause = (reads: number, why: string, tells: string): Cause => ({
    side: reads < share(topOhm, bottomOhm) ? 'low' : 'high',
    reads: round(reads),
    why: `${why} (would read ${volts(reads)})`,
    tells,
  })
  return [
    cause(
      share(bottomOhm, topOhm),
      `${top} and ${bottom} have changed places`,
      `Power off; measure across ${top}: ${ohms(topOhm)} where it is right.`,
    ),
    cause(
      highV,
      `${bottom} is missing or does not reach ground`,
      `Power off; measure from the joint to ground: ${ohms(bottomOhm)} where it is right.`,
    ),
    cause(
      0,
      `${top} is missing, or the output is not high`,
      `Measure at the other end of ${top}: with ${volts(highV)} there it is the resistor.`,
    ),
    cause(
      share(topOhm / 10, bottomOhm),
      `${top} is ten times too small: its last ring misread`,
      `Power off; measure across ${top}.`,
    ),
    cause(
      share(topOhm * 10, bottomOhm),
      `${top} is ten times too large: its last ring misread`,
      `Power off; measure across ${top}.`,
    ),
    cause(
      share(topOhm, bottomOhm / 10),
      `${bottom} is ten times too small: its last ring misread`,
      `Power off; measure across ${bottom}.`,
    ),
    cause(
      share(topOhm, bottomOhm * 10),
      `${bottom} is ten times too large: its last ring misread`,
      `Power off; measure across ${bottom}.`,
    ),
    {
      side: 'any',
      why: 'the part puts out another voltage than its class does',
      tells: 'Measure its output by itself, the divider taken off.',
    },
  ]
}

function inputSpan(of: BringingUp, line: PlanLine): { lowV: number; highV: number } {
  const { output } = line.terminal
  if (output?.kind === 'fixed') return { lowV: output.highMinV, highV: output.highMaxV }
  const rail =
    output?.kind === 'push-pull' ? railOf(of.design, of.board, of.catalog, line.part.feeds[output.from]) : undefined
  if (rail && output?.kind === 'push-pull')
    return { lowV: rail.min * output.highMinRatio, highV: rail.max * output.highMaxRatio }
  const full = line.terminal.spanV?.max ?? 5.25
  return { lowV: full, highV: full }
}

/** The signal a line belongs to. */
function signalOf({ design }: BringingUp, line: string): string | null {
  const partId = line.split('.')[0] ?? ''
  return Object.entries(design.signals).find(([, s]) => s.partId === partId)?.[0] ?? null
}

const round = (v: number): number => Math.round(v * 100) / 100

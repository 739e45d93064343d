import { adding } from '../remedies'
import { engineering, volts } from '../../units/format'
import { dividerLevels } from '../../wiring/divider'
import { addedOn } from '../../model/design'
import {
  about,
  type CheckContext,
  componentIdOf,
  feedOf,
  freeNames,
  report,
  type Reported,
  type Rule,
} from '../context'
import type { PlanLine } from '../../lines/lines'

const SOURCE =
  'Data sheets of both sides: an output must reach the other’s threshold at the worst end of both supplies.'

/** A level that the other side does not surely read. */
export const levelNotReached: Rule = {
  id: 'level-not-reached',
  severity: 'fix',
  when: 'An output’s high level stays below what the other side reads as high, or its low level above what it reads as low.',
  source: SOURCE,
  check: (context) => context.lines.flatMap((line) => [...fromPart(context, line), ...fromBoard(context, line)]),
}

function fromPart(context: CheckContext, line: PlanLine): Reported[] {
  const { design, board } = context
  const { output, needs, label } = line.terminal
  if (!output || needs === 'analog' || line.terminal.board === 'drives' || design.plan.pins[line.key] === undefined)
    return []
  const rail = output.kind === 'push-pull' ? feedOf(context, line.part, output.from) : undefined
  const ofRailV = output.kind === 'push-pull' && rail ? rail.min * output.highMinRatio : null
  const highV = output.kind === 'fixed' ? output.highMinV : ofRailV
  const divider = addedOn(design, line.key, 'divider')?.value
  const reachV =
    highV !== null && divider ? dividerLevels({ minV: highV, maxV: highV, ...divider, capacitanceF: 0 }).lowestV : highV
  const needV = board.input.highRatio * board.supplyV.max
  const lowNeedV = board.input.lowRatio * board.supplyV.min
  const steps = [
    {
      gives: 'lowest high level',
      formula: 'V_OH,min at the lowest supply',
      numbers: label,
      result: reachV === null ? 'open' : volts(reachV),
    },
    {
      gives: 'read as high from',
      formula: 'V_IH = k · VDD_max',
      numbers: `${board.input.highRatio} · ${volts(board.supplyV.max)}`,
      result: volts(needV),
    },
    {
      gives: 'read as low up to',
      formula: 'V_IL = k · VDD_min',
      numbers: `${board.input.lowRatio} · ${volts(board.supplyV.min)}`,
      result: volts(lowNeedV),
    },
  ]
  if (reachV !== null && reachV < needV) {
    return [
      report(line.key, {
        ...about(design, line),
        steps,
        sentence: `${line.part.label} ${label} may give no more than ${volts(reachV)}; the pin reads high from ${volts(needV)}.`,
        remedies: addedOn(design, line.key, 'shifter') || line.bus ? [] : shifter(context, line),
      }),
    ]
  }
  if (output.lowMaxV > lowNeedV) {
    return [
      report(line.key, {
        ...about(design, line),
        steps,
        sentence: `${line.part.label} ${label} pulls no lower than ${volts(output.lowMaxV)}; the pin reads low up to ${volts(lowNeedV)}.`,
      }),
    ]
  }
  return []
}

function fromBoard(context: CheckContext, line: PlanLine): Reported[] {
  const { design, board } = context
  const { input, label } = line.terminal
  const giveV = board.supplyV.min
  // An active-low input that hangs on a higher supply is a case of its own: it never lets go.
  if (
    line.terminal.board === 'reads' ||
    input?.highMinV === undefined ||
    input.highMinV <= giveV ||
    line.terminal.rest?.level === 'high' ||
    design.plan.pins[line.key] === undefined
  )
    return []
  return [
    report(line.key, {
      ...about(design, line),
      sentence: `${line.part.label} ${label} reads high from ${volts(input.highMinV)}; the board gives ${volts(giveV)}.`,
      steps: [
        {
          gives: 'what is missing',
          formula: 'V_IH − VDD_min',
          numbers: `${volts(input.highMinV)} − ${volts(giveV)}`,
          result: engineering(input.highMinV - giveV, 'V'),
        },
      ],
      remedies: shifter(context, line),
    }),
  ]
}

/** One channel of a level shifter to the part's own supply. */
function shifter({ design, rails, board }: CheckContext, line: PlanLine) {
  const supply = line.kind.terminals.find((t) => t.role === 'supply')
  const rail = rails.find(
    (r) => r.id === (supply ? line.part.feeds[supply.id] : undefined) && r.max > board.supplyV.max,
  )
  return rail
    ? [
        adding(`Level shifter to ${rail.name}`, componentIdOf(line.key, 'shifter'), {
          type: 'shifter',
          line: line.key,
          names: freeNames(design, 'U'),
          rail: rail.id,
        }),
      ]
    : []
}

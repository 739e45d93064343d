import { feeding, replacing } from '../remedies'
import { inputMaxV, ROUNDING_V } from '../../catalog/board'
import { couplerOhm, STRONGEST_PULL } from '../../calculations/couplerCalculation'
import type { OpenCalculation } from '../../calculations/writeBack'
import { addedOn, type AddedComponent } from '../../model/design'
import { nearestIn } from '../../units/eSeries'
import type { PlanLine } from '../../lines/lines'
import { railOf } from '../../power/rails'
import { engineering, ohms, volts } from '../../units/format'
import { analogPath } from '../../wiring/analogPath'
import { chooseDivider, type DividerLevels, dividerLevels } from '../../wiring/divider'
import {
  type CheckContext,
  componentIdOf,
  feedable,
  freeNames,
  report,
  type Reported,
  type Rule,
  signalOfLine,
} from '../context'
import { couplerRemedy, scaleRemedy } from '../lineRemedies'
import type { Working, WorkingStep } from '../../working/working'
import type { Remedy } from '../finding'

type Divider = Extract<AddedComponent, { type: 'divider' }>

/** A part's output, at its highest supply and the resistors' worst case, above what the pin stands. */
export const inputOverMaximum: Rule = {
  id: 'input-over-maximum',
  severity: 'stop',
  when: 'A part drives a line of the board and its high level can exceed the absolute maximum of the pin.',
  source: 'Chip data sheet, absolute maximum ratings: no input above the supply by more than 0.3 V.',
  check: (context) => context.lines.flatMap((line) => judge(context, line)),
}

function judge(context: CheckContext, line: PlanLine): Reported[] {
  const { board, design } = context
  const levels = drivenLevels(context, line)
  const pin = design.plan.pins[line.key]
  if (!levels || pin === undefined) return []
  const { minV, maxV } = levels
  const limitV = inputMaxV(board)
  const divider = Object.values(design.added).find((c): c is Divider => c.type === 'divider' && c.line === line.key)
  const reaching = divider ? dividerLevels({ minV, maxV, ...divider, capacitanceF: board.input.capacitanceF }) : null
  if ((reaching?.highestV ?? maxV) <= limitV + ROUNDING_V) return []

  const what = divider
    ? `${line.terminal.label} reaches ${volts(reaching?.highestV ?? maxV)} behind the divider`
    : `${line.terminal.label} can reach ${volts(maxV)}`
  return [
    report(line.key, {
      signalId: signalOfLine(design, line),
      partId: line.partId,
      sentence: `${what}; pin ${pin} stands ${volts(limitV)}.`,
      ...proposal(context, line, { ...levels, limitV }),
      calculation: sumOf(context, line, levels),
    }),
  ]
}

function sumOf({ design, board }: CheckContext, line: PlanLine, { minV, maxV }: Driven): OpenCalculation {
  if (maxV > COUPLE_ABOVE_V && line.terminal.output?.kind === 'fixed')
    return {
      id: 'coupler',
      given: {
        minV: Math.min(minV, maxV),
        maxV,
        supplyV: board.supplyV.max,
        pullOhm: board.pulls.upOhm * STRONGEST_PULL,
        tolerance: 0.05,
        value: nearestIn('E24', couplerOhm(minV, maxV), 'down'),
      },
      target: { line: line.key },
    }
  const old = addedOn(design, line.key, 'divider')?.value
  return {
    id: 'divider',
    target: { line: line.key },
    given: {
      maxV,
      minV,
      limitV: inputMaxV(board),
      readsHighV: board.input.highRatio * board.supplyV.max,
      topOhm: old?.topOhm ?? 1800,
      value: old?.bottomOhm ?? 3300,
      tolerance: 0.01,
      capacitanceF: board.input.capacitanceF,
    },
  }
}

/** A line with a voltage of its own above this comes from another installation: its minus is better kept apart. */
const COUPLE_ABOVE_V = 6
interface Driven {
  minV: number
  maxV: number
  maxA: number
  reach: WorkingStep
}
type Levels = Driven & { limitV: number }

/**
 * High level of what drives the line, at both ends of its supply; null where nothing drives it, or it is not fed yet.
 */
function drivenLevels({ design, board, catalog }: CheckContext, line: PlanLine): Driven | null {
  const { output, label } = line.terminal
  if (output?.kind === 'fixed') {
    return {
      minV: output.highMinV,
      maxV: output.highMaxV,
      maxA: output.maxA,
      reach: {
        gives: `highest level of ${label}`,
        formula: 'V_high, as the part states it',
        numbers: `${volts(output.highMinV)} to ${volts(output.highMaxV)}`,
        result: volts(output.highMaxV),
      },
    }
  }
  if (output?.kind !== 'push-pull') return null
  const rail = railOf(design, board, catalog, line.part.feeds[output.from])
  if (!rail) return null
  const maxV = rail.max * output.highMaxRatio
  return {
    minV: rail.min * output.highMinRatio,
    maxV,
    maxA: output.maxA,
    reach: {
      gives: `highest level of ${label}`,
      formula: 'V_high = V_supply,max · k',
      numbers: `${volts(rail.max)} · ${output.highMaxRatio}`,
      result: volts(maxV),
    },
  }
}

function proposal(context: CheckContext, line: PlanLine, levels: Levels): Working & { remedies: Remedy[] } {
  const { board, design } = context
  const readsHighV = board.input.highRatio * board.supplyV.max
  const { reach } = levels
  const limit = {
    gives: 'what the pin stands',
    formula: 'V_max = VDD + 0.3 V',
    numbers: `${volts(board.logicV)} + ${volts(board.input.maxAboveSupplyV)}`,
    result: volts(levels.limitV),
  }
  const chosen = chooseDivider({
    minV: levels.minV,
    maxV: levels.maxV,
    limitV: levels.limitV,
    readsHighV,
    maxSourceA: levels.maxA,
    tolerance: 0.01,
    capacitanceF: board.input.capacitanceF,
  })
  const couple =
    levels.maxV > COUPLE_ABOVE_V && line.terminal.output?.kind === 'fixed' && line.terminal.needs !== 'analog'
      ? couplerRemedy(design, line, levels)
      : []
  if (line.terminal.needs === 'analog')
    return {
      steps: [reach, limit],
      source: board.input.source,
      remedies: [
        ...feedLower(context, line, levels.limitV),
        ...scaleRemedy(
          design,
          analogPath(design, context.catalog, board, line),
          line,
          Math.max(line.terminal.spanV?.max ?? 0, levels.maxV),
        ),
      ],
    }
  if (!chosen)
    return {
      steps: [reach, limit],
      source: board.input.source,
      remedies: [...feedLower(context, line, levels.limitV), ...couple],
    }
  const { topOhm, bottomOhm } = chosen
  const old = Object.entries(design.added).find(([, c]) => c.type === 'divider' && c.line === line.key)
  return {
    steps: [reach, limit, ...dividerSteps(chosen, levels, readsHighV)],
    source: board.input.source,
    remedies: [
      ...couple,
      ...feedLower(context, line, levels.limitV),
      replacing(
        `${old ? 'Change to' : 'Divide'} ${ohms(topOhm)} over ${ohms(bottomOhm)}`,
        old?.[0],
        componentIdOf(line.key, 'divider'),
        {
          type: 'divider',
          line: line.key,
          names: old?.[1].type === 'divider' ? old[1].names : freeNames(design, 'R', 'R'),
          topOhm,
          bottomOhm,
          tolerance: 0.01,
        },
      ),
    ],
  }
}

/** The part fed from a lower rail it stands, where its output then stays within the limit. */
function feedLower(context: CheckContext, line: PlanLine, limitV: number): Remedy[] {
  const { output } = line.terminal
  if (output?.kind !== 'push-pull') return []
  const supply = line.kind.terminals.find((t) => t.id === output.from)
  const rail =
    supply?.role === 'supply'
      ? feedable(context, line.partId, supply).find((r) => r.max * output.highMaxRatio <= limitV)
      : undefined
  return rail && supply
    ? [feeding(`Feed ${supply.label} from ${rail.name}`, { partId: line.partId, terminal: supply.id }, rail.id)]
    : []
}

function dividerSteps(
  { topOhm, bottomOhm, levels }: { topOhm: number; bottomOhm: number; levels: DividerLevels },
  from: Levels,
  readsHighV: number,
) {
  const top = ohms(topOhm)
  const bottom = ohms(bottomOhm)
  return [
    {
      gives: 'highest at the pin, 1 % resistors',
      formula: 'V = V_high · R2·(1+t) / (R1·(1−t) + R2·(1+t))',
      numbers: `${volts(from.maxV)}, R1 ${top}, R2 ${bottom}, t 1 %`,
      result: volts(levels.highestV),
    },
    {
      gives: 'lowest that must read high',
      formula: 'V = V_min · R2·(1−t) / (R1·(1+t) + R2·(1−t)) ≥ 0.75 · VDD',
      numbers: `${volts(from.minV)} against ${volts(readsHighV)}`,
      result: volts(levels.lowestV),
    },
    {
      gives: 'edge at the pin',
      formula: 't = 2.2 · R1‖R2 · C_in',
      numbers: `2.2 · ${ohms((topOhm * bottomOhm) / (topOhm + bottomOhm))} · 10 pF`,
      result: engineering(levels.edgeS, 's'),
    },
    {
      gives: 'taken from the output',
      formula: 'I = V_high / (R1 + R2)',
      numbers: `${volts(from.maxV)} / ${ohms(topOhm + bottomOhm)}`,
      result: engineering(levels.sourceA, 'A'),
    },
  ]
}

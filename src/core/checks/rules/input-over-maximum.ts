import { inputMaxV, railById } from '../../catalog/board'
import type { AddedComponent } from '../../design/design'
import type { PlanLine } from '../../pins/lines'
import { engineering, ohms, volts } from '../../units/format'
import { chooseDivider, type DividerLevels, dividerLevels } from '../../wiring/divider'
import { type CheckContext, componentIdFor, freeResistorNames, type Rule, signalOfLine } from '../context'
import type { Finding, Remedy, Working } from '../finding'

/** Far below any voltage that matters, far above what sums of floating numbers are off by. */
const ROUNDING_V = 1e-9

type Divider = Extract<AddedComponent, { type: 'divider' }>

/** A part's output, at its highest supply and the resistors' worst case, above what the pin stands. */
export const inputOverMaximum: Rule = {
  id: 'input-over-maximum',
  severity: 'stop',
  when: 'A part drives a line of the board and its high level can exceed the absolute maximum of the pin.',
  source: 'Chip data sheet, absolute maximum ratings: no input above the supply by more than 0.3 V.',
  check: (context) => context.lines.flatMap((line) => judge(context, line)),
}

function judge(context: CheckContext, line: PlanLine): Finding[] {
  const { board, design } = context
  const output = line.terminal.output
  if (output?.kind !== 'push-pull') return []
  const railId = line.part.feeds[output.from]
  const rail = railId === undefined ? undefined : railById(board, railId)
  const pin = design.plan.pins[line.key]
  if (!rail || pin === undefined) return []

  const maxV = rail.max * output.highMaxRatio
  const minV = rail.min * output.highMinRatio
  const limitV = inputMaxV(board)
  const divider = Object.values(design.added).find((c): c is Divider => c.type === 'divider' && c.line === line.key)
  const reaching = divider ? dividerLevels({ minV, maxV, ...divider, capacitanceF: board.input.capacitanceF }) : null
  if ((reaching?.highestV ?? maxV) <= limitV + ROUNDING_V) return []

  const what = divider ? `${line.terminal.label} reaches ${volts(reaching?.highestV ?? maxV)} behind the divider` : `${line.terminal.label} can reach ${volts(maxV)}`
  return [{
    rule: 'input-over-maximum', severity: 'stop', key: `input-over-maximum:${line.key}`, bench: 'wires',
    signalId: signalOfLine(design, line), partId: line.partId,
    sentence: `${what}; pin ${pin} stands ${volts(limitV)}.`,
    ...proposal(context, line, { maxV, minV, limitV, maxA: output.maxA, railName: rail.name, railMax: rail.max, ratio: output.highMaxRatio }),
    caution: null,
  }]
}

interface Levels { maxV: number; minV: number; limitV: number; maxA: number; railName: string; railMax: number; ratio: number }

function proposal(context: CheckContext, line: PlanLine, levels: Levels): { working: Working; remedies: Remedy[] } {
  const { board, design } = context
  const readsHighV = board.input.highRatio * board.supplyV.max
  const reach = {
    gives: `highest level of ${line.terminal.label}`, formula: 'V_high = V_supply,max · k',
    numbers: `${volts(levels.railMax)} · ${levels.ratio}`, result: volts(levels.maxV),
  }
  const limit = {
    gives: 'what the pin stands', formula: 'V_max = VDD + 0.3 V',
    numbers: `${volts(board.logicV)} + ${volts(board.input.maxAboveSupplyV)}`, result: volts(levels.limitV),
  }
  const chosen = chooseDivider({
    minV: levels.minV, maxV: levels.maxV, limitV: levels.limitV, readsHighV, maxSourceA: levels.maxA, tolerance: 0.01, capacitanceF: board.input.capacitanceF,
  })
  if (!chosen) return { working: { steps: [reach, limit], source: board.input.source }, remedies: [] }
  const { topOhm, bottomOhm } = chosen
  const old = Object.entries(design.added).find(([, c]) => c.type === 'divider' && c.line === line.key)
  return {
    working: { steps: [reach, limit, ...dividerSteps(chosen, levels, readsHighV)], source: board.input.source },
    remedies: [{
      label: `${old ? 'Change to' : 'Divide'} ${ohms(topOhm)} over ${ohms(bottomOhm)}`,
      edits: [
        ...(old ? [{ kind: 'remove-component' as const, componentId: old[0] }] : []),
        {
          kind: 'add-component', componentId: componentIdFor(line.key, 'dv'),
          component: { type: 'divider', line: line.key, names: old?.[1].type === 'divider' ? old[1].names : freeResistorNames(design), topOhm, bottomOhm, tolerance: 0.01 },
        },
      ],
    }],
  }
}

function dividerSteps({ topOhm, bottomOhm, levels }: { topOhm: number; bottomOhm: number; levels: DividerLevels }, from: Levels, readsHighV: number) {
  const top = ohms(topOhm)
  const bottom = ohms(bottomOhm)
  return [
    { gives: 'highest at the pin, 1 % resistors', formula: 'V = V_high · R2·(1+t) / (R1·(1−t) + R2·(1+t))', numbers: `${volts(from.maxV)}, R1 ${top}, R2 ${bottom}, t 1 %`, result: volts(levels.highestV) },
    { gives: 'lowest that must read high', formula: 'V = V_min · R2·(1−t) / (R1·(1+t) + R2·(1−t)) ≥ 0.75 · VDD', numbers: `${volts(from.minV)} against ${volts(readsHighV)}`, result: volts(levels.lowestV) },
    { gives: 'edge at the pin', formula: 't = 2.2 · R1‖R2 · C_in', numbers: `2.2 · ${ohms((topOhm * bottomOhm) / (topOhm + bottomOhm))} · 10 pF`, result: engineering(levels.edgeS, 's') },
    { gives: 'taken from the output', formula: 'I = V_high / (R1 + R2)', numbers: `${volts(from.maxV)} / ${ohms(topOhm + bottomOhm)}`, result: engineering(levels.sourceA, 'A') },
  ]
}

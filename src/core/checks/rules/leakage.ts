import type { PlanLine } from '../../lines/lines'
import type { Board } from '../../catalog/board'
import { replacing } from '../remedies'
import { addedOn } from '../../model/design'
import { nearestIn } from '../../units/eSeries'
import { engineering, ohms, volts } from '../../units/format'
import { type CheckContext, type Reported, type Rule, about, componentIdOf, freeNames, pinAt, report } from '../context'

const SOURCE = 'I_leak · R against the thresholds: pull-up VDD − V_IH, pull-down V_IL.'

/**
 * What a pair of Schottky diodes lets through when it is warm, A. A suppressor for 3.3 V lets hundreds of times as much
 * through.
 */
const CLAMP_LEAK_A = 1e-5

/** A pull inside the chip is at most this much more than stated. */
const WEAKEST_PULL = 1.5

/** An open contact that leaks so much that it reads closed. */
export const leakage: Rule = {
  id: 'leakage',
  severity: 'fix',
  when: 'The current through an open contact moves its input, against the pull, over the threshold.',
  source: SOURCE,
  check: (context) => context.lines.flatMap((line) => judge(context, line) ?? []),
}

function judge(context: CheckContext, line: PlanLine): Reported | null {
  const { board, design } = context
  const { pull } = line.terminal
  const clamp = addedOn(design, line.key, 'clamp')
  const ownA = line.terminal.leakA ?? 0
  const leakA = ownA + (clamp && pull ? CLAMP_LEAK_A : 0)
  if (leakA === 0 || !pinAt(context, line) || line.terminal.board === 'drives') return null
  if (addedOn(design, line.key, 'optocoupler')) return null
  const side = sideOf(board, pull ?? 'up')
  const ohm = line.pulls[0]?.ohm ?? side.pullOhm * WEAKEST_PULL
  const movesV = leakA * ohm
  if (movesV <= side.marginV) return null
  const better = nearestIn('E24', (side.marginV / leakA) * 0.5, 'down')
  const old = addedOn(design, line.key, 'pull')
  const by = clamp && ownA === 0 ? ` with ${clamp.value.names[0]}` : ''
  return report(line.key, {
    ...about(design, line),
    sentence: `${line.part.label}${by} leaks ${engineering(leakA, 'A')} when open: over ${ohms(ohm)} that is ${volts(movesV)}, and it reads closed.`,
    steps: [
      {
        gives: 'moved by',
        formula: 'ΔV = I_leak · R',
        numbers: `${engineering(leakA, 'A')} · ${ohms(ohm)}`,
        result: volts(movesV),
      },
      { gives: 'allowed', formula: side.formula, numbers: volts(board.supplyV.min), result: volts(side.marginV) },
    ],
    remedies: [
      replacing(`${ohms(better)} to ${side.to}`, old?.id, old?.id ?? componentIdOf(line.key, 'pull'), {
        type: 'pull',
        line: line.key,
        names: old?.value.names ?? freeNames(design, 'R'),
        level: side.level,
        ohm: better,
        tolerance: 0.05,
      }),
    ],
  })
}

/** What a contact with a pull this way leans on: the level at rest and how far it may move, V. */
function sideOf({ supplyV, input, pulls }: Board, pull: 'up' | 'down') {
  return pull === 'up'
    ? {
        level: 'high' as const,
        to: '3.3 V',
        formula: 'VDD − V_IH',
        pullOhm: pulls.upOhm,
        marginV: supplyV.min - input.highRatio * supplyV.min,
      }
    : {
        level: 'low' as const,
        to: 'ground',
        formula: 'V_IL',
        pullOhm: pulls.downOhm,
        marginV: input.lowRatio * supplyV.min,
      }
}

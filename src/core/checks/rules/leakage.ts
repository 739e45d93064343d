import { replacing } from '../remedies'
import { addedOn } from '../../model/design'
import { nearestIn } from '../../units/eSeries'
import { engineering, ohms, volts } from '../../units/format'
import { about, componentIdOf, freeNames, pinAt, report, type Rule } from '../context'

const SOURCE = 'I_leak · R against the thresholds: pull-up VDD − V_IH, pull-down V_IL.'

/**
 * What a pair of Schottky diodes lets through when it is warm, A. A suppressor for 3.3 V lets hundreds of times as much
 * through.
 */
const CLAMP_LEAK_A = 1e-5

/** An open contact that leaks so much that it reads closed. */
export const leakage: Rule = {
  id: 'leakage',
  severity: 'fix',
  when: 'The current through an open contact moves its input, against the pull, over the threshold.',
  source: SOURCE,
  check: (context) =>
    context.lines.flatMap((line) => {
      const { board, design } = context
      const pin = pinAt(context, line)
      const { pull } = line.terminal
      const clamp = addedOn(design, line.key, 'clamp')
      const leakA = (line.terminal.leakA ?? 0) + (clamp && pull ? CLAMP_LEAK_A : 0)
      if (leakA === 0 || !pin || line.terminal.board === 'drives' || addedOn(design, line.key, 'optocoupler')) return []
      const up = (pull ?? 'up') === 'up'
      const ohm = line.pulls[0]?.ohm ?? (up ? board.pulls.upOhm : board.pulls.downOhm) * 1.5
      const marginV = up
        ? board.supplyV.min - board.input.highRatio * board.supplyV.min
        : board.input.lowRatio * board.supplyV.min
      const movesV = leakA * ohm
      if (movesV <= marginV) return []
      const better = nearestIn('E24', (marginV / leakA) * 0.5, 'down')
      const old = addedOn(design, line.key, 'pull')
      return [
        report(line.key, {
          ...about(design, line),
          sentence: `${line.part.label}${clamp && !line.terminal.leakA ? ` with ${clamp.value.names[0]}` : ''} leaks ${engineering(leakA, 'A')} when open: over ${ohms(ohm)} that is ${volts(movesV)}, and it reads closed.`,
          steps: [
            {
              gives: 'moved by',
              formula: 'ΔV = I_leak · R',
              numbers: `${engineering(leakA, 'A')} · ${ohms(ohm)}`,
              result: volts(movesV),
            },
            {
              gives: 'allowed',
              formula: up ? 'VDD − V_IH' : 'V_IL',
              numbers: volts(board.supplyV.min),
              result: volts(marginV),
            },
          ],
          remedies: [
            replacing(
              `${ohms(better)} to ${up ? '3.3 V' : 'ground'}`,
              old?.id,
              old?.id ?? componentIdOf(line.key, 'pull'),
              {
                type: 'pull',
                line: line.key,
                names: old?.value.names ?? freeNames(design, 'R'),
                level: up ? 'high' : 'low',
                ohm: better,
                tolerance: 0.05,
              },
            ),
          ],
        }),
      ]
    }),
}

import { engineering } from '../../units/format'
import { type CheckContext, report, type Rule } from '../context'
import { pinA } from './pin-current'

/** All pins together above what the chip gives. */
export const chipCurrent: Rule = {
  id: 'chip-current',
  severity: 'fix',
  when: 'The currents of all pins together exceed the chip’s limit, if everything is on at once.',
  source: 'Chip data sheet: sum over all pins.',
  check: (context: CheckContext) => {
    const { board, design, lines } = context
    const on = lines.filter((l) => design.plan.pins[l.key] !== undefined && pinA(context, l) > 0)
    const sumA = on.reduce((sum, l) => sum + pinA(context, l), 0)
    if (sumA <= board.drive.totalA || on.length < 2) return []
    return [
      report('chip', {
        sentence: `All outputs together may take ${engineering(sumA, 'A')}; the chip gives ${engineering(board.drive.totalA, 'A')}.`,
        steps: [
          ...on.map((l) => ({
            gives: `${l.part.label} ${l.terminal.label}`,
            formula: 'I',
            numbers: 'highest',
            result: engineering(pinA(context, l), 'A'),
          })),
          { gives: 'together', formula: 'Σ I', numbers: `${on.length} pins`, result: engineering(sumA, 'A') },
        ],
      }),
    ]
  },
}

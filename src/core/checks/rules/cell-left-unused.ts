import { cycleOf } from '../../energy/cycle'
import { likelyOf } from '../../energy/life'
import { report, type Rule } from '../context'

/** Share of a cell that may stay behind before it is worth a word. */
const WORTH_SAYING = 0.3

/** A board that stops long before its cell is empty. */
export const cellLeftUnused: Rule = {
  id: 'cell-left-unused',
  severity: 'fix',
  when: 'The regulator, its diode and the sag of the cell under a burst of the radio stop the board while much of the cell’s charge is still there.',
  source:
    'Discharge curve of the chemistry, read at the voltage at which the chip starts anew: brown-out + drop-out + diode + inner resistance · burst.',
  check: ({ design, board, catalog }) => {
    const cycle = cycleOf(design, board, catalog)
    if (!cycle) return []
    const x = likelyOf(cycle)
    const at = (id: string) => cycle.inputs.findIndex((i) => i.id === id)
    const whole = (x[at('capacityAh')] ?? 0) * (x[at('coldShare')] ?? 1)
    const left = 1 - cycle.usableAh(x) / whole
    if (left <= WORTH_SAYING) return []
    return [
      report(cycle.cell.partId, {
        partId: cycle.cell.partId,
        signalId: null,
        bench: 'parts',
        sentence: `${cycle.cell.part.label}: about ${Math.round(left * 100)} % of its charge stays behind, as the board stops before the cell is empty. Another cell, or a converter between them.`,
      }),
    ]
  },
}

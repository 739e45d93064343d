import { cellOf } from '../../energy/cellOf'
import { report, type Rule } from '../context'

/** A cell that hangs outside. */
export const cellCold: Rule = {
  id: 'cell-cold',
  severity: 'note',
  when: 'The cell that feeds a node is outside: what the cold leaves of it, and that it is not charged below freezing.',
  source: 'Charge at −5 °C as makers of the chemistry state it.',
  check: ({ design, catalog }) => {
    const cell = cellOf(design, catalog)
    if (!cell?.part.outdoor) return []
    const less = Math.round((1 - cell.facts.cold.likely) * 100)
    const charging = cell.cell.rechargeable ? ' Nothing may charge it below 0 °C.' : ''
    return [
      report(cell.partId, {
        partId: cell.partId,
        signalId: null,
        bench: 'parts',
        sentence: `${cell.part.label} is outside: at −5 °C about ${less} % of its charge is not there.${charging}`,
      }),
    ]
  },
}

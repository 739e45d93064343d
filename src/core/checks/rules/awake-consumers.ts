import { supplyCurrents } from '../../catalog/part'
import { engineering } from '../../units/format'
import { feedOf, report, type Rule, signalOfPart } from '../context'

/** Share of the board's own sleep current from which a part decides how long a cell lasts. */
const MATTERS_A = 0.0005

/** Parts that go on taking current while the node sleeps. */
export const awakeConsumers: Rule = {
  id: 'awake-consumers',
  severity: 'fix',
  when: 'A node sleeps, and its parts go on taking more than half a milliampere.',
  source: 'Currents at rest of the parts’ data sheets against the board’s own while it sleeps.',
  check: (context) => {
    const { design, board, parts } = context
    if (!design.sleep) return []
    const awake = parts.flatMap(({ id, part, kind }) =>
      kind.load || kind.terminals.some((t) => t.role === 'source')
        ? []
        : kind.terminals.flatMap((t) => {
            const rail = t.role === 'supply' ? feedOf(context, part, t.id) : undefined
            const { idleA } = t.role === 'supply' ? supplyCurrents(t, part.settings, kind) : { idleA: 0 }
            return rail && rail.through === null && idleA > 0 ? [{ id, label: part.label, idleA }] : []
          }),
    )
    const sumA = awake.reduce((s, a) => s + a.idleA, 0)
    const [worst] = [...awake].sort((a, b) => b.idleA - a.idleA)
    if (sumA <= MATTERS_A || !worst) return []
    return [
      report('node', {
        bench: 'parts',
        partId: worst.id,
        signalId: signalOfPart(design, worst.id),
        sentence: `Its parts take ${engineering(sumA, 'A')} while it sleeps, the board itself ${engineering(board.currents.sleepA.likely, 'A')}: ${worst.label} alone ${engineering(worst.idleA, 'A')}. A cell of 1 000 mAh is empty after ${days(sumA + board.currents.sleepA.likely)}.`,
        steps: awake.map((a) => ({
          gives: a.label,
          formula: 'at rest',
          numbers: 'data sheet',
          result: engineering(a.idleA, 'A'),
        })),
      }),
    ]
  },
}

const days = (a: number): string => {
  const d = 1 / a / 24
  return d < 2 ? `${(d * 24).toFixed(0)} hours` : `${d.toFixed(0)} days`
}

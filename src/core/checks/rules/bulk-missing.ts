import { adding } from '../remedies'
import { feedOf, freeNames, componentIdOf, report, type Rule } from '../context'
import { supplyCurrents } from '../../catalog/part'
import { engineering, farads } from '../../units/format'
import { nearestIn } from '../../units/eSeries'

/** A step of current above this moves a rail on ordinary wires, A. */
const STEP_A = 0.3
const SOURCE = 'C ≥ I · Δt / ΔV with a step of 1 ms and 0.5 V allowed.'

/** A part whose current jumps, on a rail without a capacitor. */
export const bulkMissing: Rule = {
  id: 'bulk-missing',
  severity: 'note',
  when: 'A part takes its current in steps of more than 0.3 A, and its rail has no capacitor near it.',
  source: SOURCE,
  check: (context) =>
    context.parts.flatMap(({ id, part, kind }) =>
      kind.terminals.flatMap((t) => {
        if (t.role !== 'supply' || kind.load || kind.terminals.some((s) => s.role === 'source')) return []
        const { idleA, peakA } = supplyCurrents(t, part.settings, kind)
        if (peakA - idleA <= STEP_A) return []
        const rail = feedOf(context, part, t.id)
        if (!rail || Object.values(context.design.added).some((c) => c.type === 'bulk' && c.rail === rail.id)) return []
        const stepA = peakA - idleA
        const farad = Math.min(nearestIn('E12', (stepA * 0.001) / 0.5, 'up'), 0.0022)
        return [
          report(`${id}.${t.id}`, {
            partId: id,
            sentence: `${part.label} takes ${engineering(stepA, 'A')} in a step: a capacitor at ${rail.name} beside it keeps the board from starting anew.`,
            steps: [
              {
                gives: 'capacitor',
                formula: 'C = I · Δt / ΔV',
                numbers: `${engineering(stepA, 'A')} · 1 ms / 0.5 V`,
                result: farads((stepA * 0.001) / 0.5),
              },
            ],
            remedies: [
              adding(`Add ${farads(farad)}`, componentIdOf(rail.id, 'bulk'), {
                type: 'bulk',
                rail: rail.id,
                names: freeNames(context.design, 'C'),
                farad,
              }),
            ],
          }),
        ]
      }),
    ),
}

import { byOne } from '../remedies'
import { afterRounds } from '../../pins/afterRounds'
import { planPins } from '../../pins/planPins'
import { lineName } from '../../lines/lines'
import { report, type Rule, signalOfLine } from '../context'
import type { Remedy } from '../finding'
import { wishRemedies } from '../../alternatives/remedies'

/** Rounds of the search a check may take; the pins bench looks on without end. */
const ROUNDS = 8

/**
 * A line that has no pin in the accepted plan: with a plan that would give it one, or the conflicts that stand against
 * it.
 */
export const lineWithoutPin: Rule = {
  id: 'line-without-pin',
  severity: 'stop',
  when: 'A part needs a pin and the accepted plan gives it none.',
  source: 'The design itself.',
  check: ({ design, catalog, lines }) => {
    const open = lines.filter((l) => design.plan.pins[l.key] === undefined)
    if (open.length === 0) return []
    const plan = planPins(design, catalog, { past: 'kept', stop: afterRounds(ROUNDS) })
    const names = new Map(lines.map((l) => [l.key, lineName(l)]))
    const conflicts = plan.kind === 'impossible' ? plan.conflicts : []
    const why =
      plan.kind === 'planned'
        ? ` ${plan.moves.map((m) => `${names.get(m.line)} would move from ${m.from} to ${m.to}${m.made ? ', whose wire is made' : ''}`).join(', ')}.`
        : ` ${conflicts.map((c) => c.words).join(' ')}`
    const remedies: Remedy[] =
      plan.kind === 'planned'
        ? [byOne('Accept this plan', { kind: 'accept-plan', pins: plan.pins })]
        : conflicts.flatMap(wishRemedies)
    return open.map((line, i) =>
      report(line.key, {
        bench: 'pins',
        signalId: signalOfLine(design, line),
        partId: line.partId,
        sentence: `${lineName(line)} has no pin.${i === 0 ? why : ''}`,
        remedies: i === 0 ? remedies : [],
      }),
    )
  },
}

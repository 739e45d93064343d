import { feeding } from '../remedies'
import { feedable, report, type Rule, signalOfPart } from '../context'

/** A part that nothing feeds: what follows from its supply cannot be judged yet. */
export const supplyOpen: Rule = {
  id: 'supply-open',
  severity: 'fix',
  when: 'A supply terminal of a part is not fed from any rail.',
  source: 'The design itself.',
  check: (context) =>
    context.parts.flatMap(({ id, part, kind }) =>
      kind.terminals.flatMap((t) => {
        if (t.role !== 'supply' || context.rails.some((r) => r.id === part.feeds[t.id]) || kind.load) return []
        const fitting = feedable(context, id, t)
        return [
          report(`${id}.${t.id}`, {
            bench: 'parts',
            partId: id,
            signalId: signalOfPart(context.design, id),
            sentence: `${part.label} ${t.label} is not fed (it takes ${t.minV} to ${t.maxV} V): its levels and currents cannot be judged yet.`,
            remedies: fitting
              .slice(0, 3)
              .map((r) => feeding(`Feed it from ${r.name}`, { partId: id, terminal: t.id }, r.id)),
          }),
        ]
      }),
    ),
}

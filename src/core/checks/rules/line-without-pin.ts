import { planPins } from '../../pins/planPins'
import { lineName } from '../../pins/lines'
import { type Rule, signalOfLine } from '../context'
import type { Remedy } from '../finding'

/** A line that has no pin in the accepted plan: with a plan that would give it one, or the conflict that stands against it. */
export const lineWithoutPin: Rule = {
  id: 'line-without-pin',
  severity: 'stop',
  when: 'A part needs a pin and the accepted plan gives it none.',
  source: 'The design itself.',
  check: ({ design, catalog, lines }) => {
    const open = lines.filter((l) => design.plan.pins[l.key] === undefined)
    if (open.length === 0) return []
    const plan = planPins(design, catalog)
    const names = new Map(lines.map((l) => [l.key, lineName(l)]))
    const why = plan.kind === 'planned'
      ? ` ${plan.moves.map((m) => `${names.get(m.line)} would move from ${m.from} to ${m.to}`).join(', ')}.`
      : ` These cannot be met together: ${plan.conflict.members.map((m) => m.words).join('; ')}.`
    const remedies: Remedy[] = plan.kind === 'planned'
      ? [{ label: 'Accept this plan', edits: [{ kind: 'accept-plan', pins: plan.pins }] }]
      : plan.conflict.members.flatMap((m): Remedy[] => {
          if (m.kind === 'lock') return [{ label: `Unlock ${m.pin}`, edits: [{ kind: 'unlock', line: m.line }] }]
          if (m.kind === 'kept-free') return [{ label: `Give ${m.pin} back`, edits: [{ kind: 'keep-free', pin: m.pin, free: false }] }]
          return []
        })
    return open.map((line, i) => ({
      rule: 'line-without-pin', severity: 'stop' as const, key: `line-without-pin:${line.key}`, bench: 'pins' as const,
      signalId: signalOfLine(design, line), partId: line.partId,
      sentence: `${lineName(line)} has no pin.${i === 0 ? why : ''}`,
      working: null, remedies: i === 0 ? remedies : [], caution: null,
    }))
  },
}

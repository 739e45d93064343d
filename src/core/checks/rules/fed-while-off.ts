import { allLines } from '../../lines/lines'
import { switchOf } from '../../power/switchedRail'
import { type CheckContext, report, type Rule, signalOfPart } from '../context'
import { byOne } from '../remedies'

/** A part whose rail is off while the node sleeps, and whose pin is held up all the same. */
export const fedWhileOff: Rule = {
  id: 'fed-while-off',
  severity: 'fix',
  when: 'A part is switched off while the node sleeps, and a pull or a powered part on one of its lines feeds it through its pin.',
  source:
    'Absolute maximum ratings of such parts: no pin above the supply; the diode at the pin carries what the pull gives.',
  check: (context) => {
    const { design, parts } = context
    if (!design.sleep) return []
    return parts.flatMap(({ id, part, kind }) => {
      const off = switchedBy(context, id)
      if (off === null) return []
      const why = heldUp(context, id)
      if (!why) return []
      const feed = kind.terminals.find((t) => t.role === 'supply')
      const { otherId, words } = why
      const other = otherId === null ? undefined : design.parts[otherId]
      const vcc = context.parts.find((p) => p.id === otherId)?.kind.terminals.find((t) => t.role === 'supply')
      const rail = feed && part.feeds[feed.id]
      const always = Object.values(design.parts[off]?.feeds ?? {})[0]
      return [
        report(id, {
          bench: 'wires',
          partId: id,
          signalId: signalOfPart(design, id),
          sentence: `${part.label} is off while the node sleeps, and ${words}: it is fed through its pin, never quite off, and may not start cleanly.`,
          remedies: [
            ...(otherId !== null && other && vcc && rail !== undefined
              ? [
                  byOne(`Feed ${other.label} from the switched rail as well`, {
                    kind: 'feed' as const,
                    partId: otherId,
                    terminal: vcc.id,
                    rail,
                  }),
                ]
              : []),
            ...(feed && always !== undefined
              ? [
                  byOne(`Feed ${part.label} all the time`, {
                    kind: 'feed' as const,
                    partId: id,
                    terminal: feed.id,
                    rail: always,
                  }),
                ]
              : []),
          ],
        }),
      ]
    })
  },
}

/** The switch a part's supply hangs on; null where it, or one of its supplies, is always fed. */
function switchedBy({ design, catalog, parts }: CheckContext, partId: string): string | null {
  const own = parts.find((p) => p.id === partId)
  const rails = own?.kind.terminals.flatMap((t) => (t.role === 'supply' ? (own.part.feeds[t.id] ?? []) : [])) ?? []
  const switches = rails.map((r) => switchOf(design, catalog, r))
  return switches.length > 0 && switches.every((s) => s !== null) ? (switches[0] ?? null) : null
}

/** What holds a line of the part up while it is off. */
function heldUp(context: CheckContext, partId: string): { otherId: string | null; words: string } | null {
  const { design, catalog, parts } = context
  for (const line of allLines(design, catalog)) {
    if (!line.members.some((m) => m.partId === partId)) continue
    const pull = Object.values(design.added).find((c) => c.type === 'pull' && c.level === 'high' && c.line === line.key)
    if (pull) return { otherId: null, words: `${pull.names[0]} holds its ${line.terminal.label} up all the time` }
    for (const m of line.members) {
      const other = parts.find((p) => p.id === m.partId)
      if (!other || m.partId === partId || switchedBy(context, m.partId) !== null) continue
      if (other.kind.i2c?.pull)
        return { otherId: m.partId, words: `the pull-ups of ${other.part.label} hold its ${line.terminal.label} up` }
    }
  }
  return null
}

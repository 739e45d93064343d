'use client'
import { pinByLabel } from '@/core/catalog/board'
import type { Terminal } from '@/core/catalog/part'
import { planLines } from '@/core/lines/lines'
import { railsOf } from '@/core/power/rails'
import type { NodeView } from '@/ui/live/useNode'

/** The part as it lies on the bench: its terminals by their printed labels, and where each goes. */
export function Terminals({ view, partId }: { view: NodeView; partId: string }) {
  const {
    node: { design },
    board,
    catalog,
  } = view
  const part = design.parts[partId]
  const kind = part && catalog.parts[part.kind]
  if (!part || !kind) return null
  const lines = planLines(design, catalog)
  const rails = railsOf(design, board, catalog)
  const goesTo = (t: Terminal): string => {
    const feed = part.feeds[t.id]
    if (feed !== undefined) return rails.find((r) => r.id === feed)?.name ?? labelOf(view, feed)
    const hangs = Object.entries(design.parts).flatMap(([id, other]) =>
      Object.entries(other.feeds).flatMap(([terminal, at]) =>
        at === `${partId}.${t.id}` ? [labelOf(view, `${id}.${terminal}`)] : [],
      ),
    )
    if (hangs.length > 0) return hangs.join(', ')
    if (t.role === 'ground') return 'ground'
    if (t.role === 'source') return 'gives'
    if (t.role !== 'line') return t.role === 'supply' ? 'nothing yet' : ''
    const line = lines.find((l) => l.members.some((m) => m.partId === partId && m.terminal.id === t.id))
    const pin = line && design.plan.pins[line.key]
    return pin === undefined ? 'no pin yet' : `pin ${pinByLabel(board, pin)?.label ?? pin}`
  }
  const shown = kind.terminals.map((t) => ({ t, to: goesTo(t) })).filter(({ to }) => to !== '')
  return (
    <dl className="terminals" aria-label={`terminals of ${part.label}`}>
      {shown.map(({ t, to }) => (
        <div key={t.id}>
          <dt>{t.label}</dt>
          <dd className={to.endsWith('yet') ? 'soft' : undefined}>{to}</dd>
        </div>
      ))}
    </dl>
  )
}

/** `Pump relay NO` for a terminal of another part. */
function labelOf({ node: { design }, catalog }: NodeView, at: string): string {
  const [partId = '', terminal = ''] = at.split('.')
  const part = design.parts[partId]
  const label = catalog.parts[part?.kind ?? '']?.terminals.find((t) => t.id === terminal)?.label
  return part ? `${part.label} ${label ?? terminal}` : at
}

import { pinByLabel } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import type { Design, LineKey } from '../design/design'
import { judgePin } from './judgePin'
import { lineName, planLines } from './lines'
import { type Move, planPins, priceOf } from './planPins'

export type Consequence =
  | { kind: 'refused'; reason: string }
  | { kind: 'possible'; extra: number; moves: Move[]; words: string }

/** What locking a line to a pin would bring: what it costs more, who moves, or why it cannot be. Nothing is changed. */
export function consequence(design: Design, catalog: Catalog, key: LineKey, label: string): Consequence {
  const board = catalog.boards[design.board.id]
  const lines = planLines(design, catalog)
  const line = lines.find((l) => l.key === key)
  const pin = board && pinByLabel(board, label)
  if (!board || !line || !pin) return { kind: 'refused', reason: 'this pin is not on the board' }
  const verdict = judgePin(board, pin, line)
  if (!verdict.fits) return { kind: 'refused', reason: verdict.reason }
  const rival = Object.entries(design.locks).find(([other, at]) => at === label && other !== key)
  if (rival) return { kind: 'refused', reason: `${label} is locked to ${lines.flatMap((l) => (l.key === rival[0] ? [lineName(l)] : [])).join('')}` }
  const { [label]: _, ...keptFree } = design.keptFree
  const plan = planPins({ ...design, keptFree, locks: { ...design.locks, [key]: label } }, catalog)
  if (plan.kind === 'impossible') return { kind: 'refused', reason: plan.conflicts.map((c) => c.words).join(' ') }
  if (plan.kind === 'stopped') return { kind: 'refused', reason: 'the search was stopped' }
  const now = priceOf(design, board, lines, design.plan.pins)
  const others = plan.moves.filter((m) => m.line !== key)
  const extra = plan.price.cost - now.cost
  const names = new Map(lines.map((l) => [l.key, lineName(l)]))
  const cost = extra === 0 ? 'costs the same' : extra > 0 ? `costs ${extra} more` : `costs ${-extra} less`
  const movers = others.map((m) => `${names.get(m.line)} moves from ${m.from} to ${m.to}${m.made ? ', and its wire is made' : ''}`)
  return { kind: 'possible', extra, moves: plan.moves, words: [cost, ...movers].join('; ') }
}

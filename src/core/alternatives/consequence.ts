import { pinByLabel } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import { applyEdit } from '../edits/apply'
import type { Design, LineKey } from '../model/design'
import { rememberedOf } from '../model/remembered'
import { judgePin } from '../pins/judgePin'
import { lineName, planLines } from '../lines/lines'
import { type Move, movesOf, priceOf } from '../pins/planPins'

export type Consequence =
  | { kind: 'refused'; reason: string }
  | {
      kind: 'possible'
      extra: number
      moves: Move[]
      /** Lines that would be left without a pin. */ opens: LineKey[]
      words: string
    }

/** The design with those wires alone that count for its pins: made ones at its lines. */
const withMadeWires = rememberedOf((design, catalog): Design => {
  const ends = new Set(
    planLines(design, catalog).flatMap((l) => [
      `rail:${l.key}`,
      ...l.members.map((m) => `part:${m.partId}.${m.terminal.id}`),
    ]),
  )
  const wires = Object.fromEntries(
    Object.entries(design.wires).filter(([wire, w]) => w.made && wire.split('|').some((end) => ends.has(end))),
  )
  return { ...design, wires }
})

/**
 * What locking a line to a pin would bring: what it costs more, who moves, who is left without a pin, or why it cannot
 * be. Done on a copy, so it is what then happens.
 */
export function consequence(whole: Design, catalog: Catalog, key: LineKey, label: string): Consequence {
  const design = withMadeWires(whole, catalog)
  const board = catalog.boards[design.board.id]
  const applied = applyEdit(design, { kind: 'lock', line: key, pin: label }, catalog)
  if (!board) return { kind: 'refused', reason: `board ${design.board.id} is not on the shelf` }
  const lines = planLines(design, catalog)
  if (!applied.ok) {
    // Who asks knows line and pin: the reason alone will do.
    const [line, pin] = [lines.find((l) => l.key === key), pinByLabel(board, label)]
    const verdict = line && pin && judgePin(board, pin, line)
    return { kind: 'refused', reason: verdict && !verdict.fits ? verdict.reason : applied.reason }
  }
  const after = applied.design.plan.pins
  const moves = movesOf(design, lines, after)
  const opens = lines
    .filter((l) => design.plan.pins[l.key] !== undefined && after[l.key] === undefined)
    .map((l) => l.key)
  const extra = priceOf(design, board, lines, after).cost - priceOf(design, board, lines, design.plan.pins).cost
  const names = new Map(lines.map((l) => [l.key, lineName(l)]))
  const difference = extra > 0 ? `costs ${extra} more` : `costs ${-extra} less`
  const cost = extra === 0 ? 'costs the same' : difference
  const movers = moves
    .filter((m) => m.line !== key)
    .map((m) => `${names.get(m.line)} moves from ${m.from} to ${m.to}${m.made ? ', and its wire is made' : ''}`)
  const left = opens.map((l) => `${names.get(l)} is left without a pin`)
  return {
    kind: 'possible',
    extra,
    moves,
    opens,
    words: [...(opens.length > 0 ? [] : [cost]), ...movers, ...left].join('; '),
  }
}

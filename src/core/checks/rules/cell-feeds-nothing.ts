import { inOrder } from '../../model/design'
import { type CheckContext, report, type Rule, signalOfPart } from '../context'
import type { Remedy } from '../finding'
import { byOne } from '../remedies'

/** A cell in the design, and everything still hangs on USB. */
export const cellFeedsNothing: Rule = {
  id: 'cell-feeds-nothing',
  severity: 'fix',
  when: 'A cell is in the design, and neither the board nor any part is fed from it.',
  source: 'The design itself.',
  check: (context) => {
    const { design, parts } = context
    const used = new Set([
      design.boardFeed,
      ...inOrder(design.parts).flatMap(({ value }) => Object.values(value.feeds)),
    ])
    return parts.flatMap(({ id, part, kind }) => {
      const rails = kind.cell ? kind.terminals.filter((t) => t.role === 'source').map((t) => `${id}.${t.id}`) : []
      if (rails.length === 0 || rails.some((r) => used.has(r))) return []
      const on = design.boardFeed ?? 'USB'
      return [
        report(id, {
          bench: 'parts',
          partId: id,
          signalId: signalOfPart(design, id),
          sentence: `${part.label} feeds nothing: the board still hangs on ${on}, and its life says nothing of this node.`,
          remedies: rails.flatMap((rail) => feedIt(context, rail)),
        }),
      ]
    })
  },
}

/** The board fed from the cell, where its supply stands that; else only a converter between them does. */
function feedIt({ rails, board }: CheckContext, rail: string): Remedy[] {
  const of = rails.find((r) => r.id === rail)
  if (!of || of.max > board.supply.maxV) return []
  return [byOne(`Feed the board from ${of.name}`, { kind: 'feed-board', rail })]
}

import { z } from 'zod'
import type { Catalog } from '../../catalog/catalog'
import { terminalOf } from '../../catalog/part'
import type { Design } from '../../model/design'
import { railsOf } from '../../power/rails'
import { carried } from '../carried'
import { designEdit } from '../designEdit'
import { lowestRail } from '../lowestRail'
import { refuse, type Step } from '../step'

const schema = z.strictObject({ kind: z.literal('choose-board'), board: z.string().max(100) })

/** Another board: parts, signals, names and conditioning stay; pins, and wires that are not made, are planned anew. */
export const chooseBoard = designEdit({
  schema,
  touches: ['board', 'parts', 'plan', 'locks', 'keptFree', 'items'],
  apply: (design, edit, catalog) => boardChosen(design, edit.board, catalog),
  words: (edit) => `change the board to ${edit.board}`,
})

function boardChosen(design: Design, boardId: string, catalog: Catalog): Step {
  const board = catalog.boards[boardId]
  if (!board) return refuse(`“${boardId}” is not on the shelf`, Object.keys(catalog.boards).join(', '))
  const parts = Object.fromEntries(
    Object.entries(design.parts).map(([id, part]) => {
      const kind = catalog.parts[part.kind]
      const rails = railsOf(design, board, catalog)
      const feeds = Object.fromEntries(
        Object.entries(part.feeds).flatMap(([terminalId, rail]) => {
          const terminal = kind && terminalOf(kind, terminalId)
          const next = terminal?.role === 'supply' ? lowestRail(rails, terminal) : undefined
          const has = rails.some((r) => r.id === rail) ? rail : next
          return has === undefined ? [] : [[terminalId, has]]
        }),
      )
      return [id, { ...part, feeds }]
    }),
  )
  return {
    ...design,
    parts,
    board: { id: board.id, version: board.version },
    plan: { pins: {}, basis: '' },
    locks: {},
    keptFree: {},
    items: carried({ ...design, items: { ...design.items, boards: [] } }, catalog, { boards: [board.id] }),
  }
}

import { z } from 'zod'
import type { Catalog } from '../../catalog/catalog'
import { terminalOf } from '../../catalog/part'
import { type Design, idSchema } from '../../model/design'
import { designEdit } from '../designEdit'
import { joinRefusal } from '../joints'
import { labelOf, railWords } from '../names'
import { refuse, type Step, without, withPart } from '../step'

const schema = z.strictObject({
  kind: z.literal('feed'),
  partId: idSchema,
  terminal: z.string().max(100),
  rail: z.string().max(50).nullable(),
})
type Edit = z.infer<typeof schema>

/** A supply, contact or load terminal joined to a rail or another terminal, or taken off. */
export const feed = designEdit({
  schema,
  touches: ['parts'],
  apply: fed,
  words: (edit, design) =>
    edit.rail === null
      ? `take ${edit.terminal} of ${labelOf(design, edit.partId)} off`
      : `join ${edit.terminal} of ${labelOf(design, edit.partId)} to ${railWords(design, edit.rail)}`,
})

function fed(design: Design, edit: Edit, catalog: Catalog): Step {
  return withPart(design, edit.partId, (part) => {
    const kind = catalog.parts[part.kind]
    const terminal = kind && terminalOf(kind, edit.terminal)
    const board = catalog.boards[design.board.id]
    if (!kind || !terminal || !board)
      return refuse(
        `${part.label} has no terminal “${edit.terminal}”`,
        kind?.terminals.map((t) => t.id).join(', ') ?? '',
      )
    const refused =
      edit.rail === null ? null : joinRefusal({ design, board, catalog }, edit.partId, terminal, edit.rail)
    if (refused) return refuse(refused.reason, refused.accepts)
    const feeds =
      edit.rail === null ? without(part.feeds, edit.terminal) : { ...part.feeds, [edit.terminal]: edit.rail }
    return { ...design, parts: { ...design.parts, [edit.partId]: { ...part, feeds } } }
  })
}

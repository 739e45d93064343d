import { z } from 'zod'
import { pinByLabel } from '../../catalog/board'
import type { Catalog } from '../../catalog/catalog'
import type { Design } from '../../model/design'
import { designEdit } from '../designEdit'
import { refuse, type Step, without } from '../step'

const schema = z.strictObject({ kind: z.literal('keep-free'), pin: z.string().max(100), free: z.boolean() })
type Edit = z.infer<typeof schema>

/** A pin nothing may use, or given back. */
export const keepFree = designEdit({
  schema,
  touches: ['keptFree', 'plan'],
  apply: keptFree,
  words: (edit) => (edit.free ? `keep ${edit.pin} free` : `give ${edit.pin} back`),
})

function keptFree(design: Design, edit: Edit, catalog: Catalog): Step {
  if (!edit.free) return { ...design, keptFree: without(design.keptFree, edit.pin) }
  const board = catalog.boards[design.board.id]
  if (!board || !pinByLabel(board, edit.pin))
    return refuse(`${edit.pin} is not a pin of this board`, 'a printed label of this board')
  if (Object.values(design.locks).includes(edit.pin))
    return refuse(`a line is locked to ${edit.pin}`, 'a pin without a lock')
  const pins = Object.fromEntries(Object.entries(design.plan.pins).filter(([, label]) => label !== edit.pin))
  return { ...design, keptFree: { ...design.keptFree, [edit.pin]: true }, plan: { ...design.plan, pins } }
}

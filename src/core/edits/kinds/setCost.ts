import { z } from 'zod'
import type { Catalog } from '../../catalog/catalog'
import type { Design } from '../../model/design'
import { designEdit } from '../designEdit'
import { refuse, type Step, without } from '../step'

const schema = z.strictObject({
  kind: z.literal('set-cost'),
  item: z.string().max(40),
  cost: z.number().min(0).max(100_000).nullable(),
})
type Edit = z.infer<typeof schema>

/** What one costs here, where it differs from the catalogue. */
export const setCost = designEdit({
  schema,
  touches: ['costs'],
  apply: costSet,
  words: (edit) => `cost of ${edit.item} ${edit.cost ?? 'as in the catalogue'}`,
})

function costSet(design: Design, edit: Edit, catalog: Catalog): Step {
  if (!catalog.parts[edit.item] && !catalog.boards[edit.item])
    return refuse(`“${edit.item}” is not on the shelf`, 'a board or part of the catalogue')
  return {
    ...design,
    costs: edit.cost === null ? without(design.costs, edit.item) : { ...design.costs, [edit.item]: edit.cost },
  }
}

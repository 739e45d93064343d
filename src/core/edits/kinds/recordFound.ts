import { z } from 'zod'
import { foundSchema, idSchema } from '../../model/design'
import { designEdit } from '../designEdit'
import { labelOf } from '../names'
import { withPart } from '../step'

const schema = z.strictObject({ kind: z.literal('record-found'), partId: idSchema, found: foundSchema.nullable() })

/** How an old sensor was connected where it was found. */
export const recordFound = designEdit({
  schema,
  touches: ['parts'],
  apply: (design, edit) =>
    withPart(design, edit.partId, (part) => ({
      ...design,
      parts: { ...design.parts, [edit.partId]: { ...part, found: edit.found } },
    })),
  words: (edit, design) =>
    edit.found === null
      ? `forget how ${labelOf(design, edit.partId)} was found`
      : `record how ${labelOf(design, edit.partId)} was found`,
})

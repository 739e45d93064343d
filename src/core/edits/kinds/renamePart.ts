import { z } from 'zod'
import { idSchema, nameSchema } from '../../model/design'
import { designEdit } from '../designEdit'
import { labelOf } from '../names'
import { withPart } from '../step'

const schema = z.strictObject({ kind: z.literal('rename-part'), partId: idSchema, label: nameSchema })

/** Another label for a part. */
export const renamePart = designEdit({
  schema,
  touches: ['parts'],
  apply: (design, edit) =>
    withPart(design, edit.partId, (part) => ({
      ...design,
      parts: { ...design.parts, [edit.partId]: { ...part, label: edit.label } },
    })),
  words: (edit, design) => `rename ${labelOf(design, edit.partId)} to ${edit.label}`,
})

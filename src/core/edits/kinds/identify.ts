import { z } from 'zod'
import { idSchema, nameSchema, slugSchema } from '../../model/design'
import { designEdit } from '../designEdit'

const schema = z.strictObject({
  kind: z.literal('identify'),
  name: nameSchema,
  slug: slugSchema,
  place: idSchema.nullable(),
})

/** Name, topic level and place of the node. */
export const identify = designEdit({
  schema,
  touches: ['name', 'slug', 'place'],
  apply: (design, { name, slug, place }) => ({ ...design, name, slug, place }),
  words: (edit) => `name the node ${edit.name}`,
})

import { z } from 'zod'
import { nameSchema, slugSchema } from '../../model/design'
import { designEdit } from '../designEdit'

const schema = z.strictObject({
  kind: z.literal('identify'),
  name: nameSchema,
  slug: slugSchema,
  area: z.string().max(60),
})

/** Name, topic level and place of the node. */
export const identify = designEdit({
  schema,
  touches: ['name', 'slug', 'area'],
  apply: (design, { name, slug, area }) => ({ ...design, name, slug, area }),
  words: (edit) => `name the node ${edit.name}`,
})

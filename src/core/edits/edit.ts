import { z } from 'zod'
import { revertSchema, schemasOf } from '../documents/editing'
import { DESIGN_EDITS } from './kinds'

/** What a person can do to a design. One kind, one meaning; ids of new things come with the edit. */
export const editBodySchema = z.discriminatedUnion('kind', [...schemasOf(DESIGN_EDITS), revertSchema])
export type EditBody = z.infer<typeof editBodySchema>

/** An edit as it is sent and kept. `base` is the sequence number of the design it was made on. */
export const editSchema = z.strictObject({
  id: z.uuid(),
  node: z.uuid(),
  base: z.int().min(0),
  body: editBodySchema,
  author: z.string().max(60),
  at: z.iso.datetime().refine((at) => at >= '1970' && at < '9999', 'a moment between 1970 and 9999'),
})
export type Edit = z.infer<typeof editSchema>

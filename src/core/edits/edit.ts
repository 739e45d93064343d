import { z } from 'zod'
import { editEnvelope, revertSchema, schemasOf } from '../documents/editing'
import { DESIGN_EDITS } from './kinds'

/** What a person can do to a design. One kind, one meaning; ids of new things come with the edit. */
export const editBodySchema = z.discriminatedUnion('kind', [...schemasOf(DESIGN_EDITS), revertSchema])
export type EditBody = z.infer<typeof editBodySchema>

/** An edit of a node's design as it is sent and kept; `document` is the node. */
export const editSchema = editEnvelope(z.uuid(), editBodySchema)
export type Edit = z.infer<typeof editSchema>

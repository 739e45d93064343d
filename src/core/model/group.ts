import { z } from 'zod'
import { idSchema, nameSchema } from './ids'

/** Kinds of entities made of several signals. */
export const GROUP_KINDS = ['door', 'cover', 'lamp', 'meter', 'switch', 'climate', 'tank', 'air'] as const
export type GroupKind = (typeof GROUP_KINDS)[number]

/** One entity with its parts: a role → the signal that has it. */
export const groupSchema = z.strictObject({
  kind: z.enum(GROUP_KINDS),
  name: nameSchema,
  roles: z.record(z.string().max(20), idSchema),
})
export type DesignGroup = z.infer<typeof groupSchema>

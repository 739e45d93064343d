import { z } from 'zod'
import { BENCHES } from '../core/checks/finding'

/** Who goes on past which stops, by their keys. */
export const pastSchema = z.strictObject({
  by: z.string().trim().min(2, 'Write the name of the person who goes on.').max(60, 'At most 60 characters.'),
  of: z.array(z.string().max(200)).max(500),
})
export type Past = z.infer<typeof pastSchema>

/** Another board takes the place of a dead one: who put it there, and what became of the old one. */
export const replacesSchema = z.strictObject({
  by: z.string().trim().min(1, 'Write the name of who replaces the board.').max(60, 'At most 60 characters.'),
  why: z.string().trim().max(200),
})
export type Replaces = z.infer<typeof replacesSchema>

/** What holds something up, and on which bench it is seen to. */
export const heldStopSchema = z.object({ key: z.string(), sentence: z.string(), bench: z.enum(BENCHES) })

/** Stops that hold something up; `barred` are those nobody goes past before their caution has a name to it. */
export const heldSchema = z.object({
  stops: z.array(heldStopSchema),
  barred: z.array(z.string()),
})
export type Held = z.infer<typeof heldSchema>

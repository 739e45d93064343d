import { z } from 'zod'
import { heldStopSchema } from './held'

const node = z.object({
  id: z.string(),
  name: z.string(),
  reach: z.enum(['here', 'asleep', 'away']),
  moves: z.boolean(),
  why: z.array(z.string()),
})

/** Who is behind the design and the shop, in the order they are sent, and who cannot be reached. */
export const sendingPlanSchema = z.object({ order: z.array(node), left: z.array(node) })
export type SendingPlan = z.infer<typeof sendingPlanSchema>

export const sentSchema = z.array(
  z.object({
    id: z.string(),
    name: z.string(),
    outcome: z.enum(['runs', 'waits', 'failed', 'held', 'not sent']),
    why: z.string(),
    /** The stops that hold it, none otherwise. */
    stops: z.array(heldStopSchema),
  }),
)
export type Sent = z.infer<typeof sentSchema>[number]

import { z } from 'zod'

/** What a person beside the board could do to it or to its world. Times in s. */
export const deedSchema = z.union([
  z.strictObject({ press: z.number().min(1).max(5000), slug: z.string().optional() }),
  z.strictObject({ cut: z.boolean() }),
  z.strictObject({ contact: z.string(), closed: z.boolean() }),
  z.strictObject({ key: z.string(), press: z.number().min(1).max(5000) }),
  z.strictObject({ loop: z.string(), volts: z.number().min(0).max(5) }),
  z.strictObject({ unplug: z.literal('probe'), for: z.number().min(0).max(600) }),
  z.strictObject({ warm: z.int().min(0).max(20), for: z.number().min(0).max(600) }),
  z.strictObject({ fault: z.enum(['unplugged', 'garbage', 'hangs', 'no network']), for: z.number().min(0).max(600) }),
  z.strictObject({ power: z.enum(['off and on', 'sag']) }),
  z.strictObject({ turn: z.int().min(-50).max(50) }),
  z.strictObject({ send: z.int().min(0).max(0xffffff) }),
  z.strictObject({ fire: z.literal(true) }),
  z.strictObject({ speed: z.number().min(0).max(600) }),
  z.strictObject({ run: z.string().max(2000) }),
])
export type Deed = z.infer<typeof deedSchema>

import { z } from 'zod'

export const retiredSchema = z.object({ id: z.string(), name: z.string(), slug: z.string(), at: z.string() })
export type Retired = z.infer<typeof retiredSchema>
export const retiredListSchema = z.object({ retired: z.array(retiredSchema) })

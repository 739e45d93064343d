import { z } from 'zod'
import { familySchema } from '../core/radio/subghz/family'

/** What is known of a sender beside its document. Times are ISO 8601. */
export interface SenderLive {
  heardAt: string | null
  /** Short name of who said it last, and of who speaks for it. */
  by: string | null
  via: string | null
  /** By signal id; an event keeps its last word. */
  values: Record<string, { value: boolean | string | null; at: string }>
  /** The last times it was heard, the newest last. */
  bursts: { at: string; by: string }[]
}

export const NOT_HEARD: SenderLive = { heardAt: null, by: null, via: null, values: {}, bursts: [] }

/** A burst that a gateway passed on raw, read here. */
export const airBurstSchema = z.object({
  atMs: z.number(),
  by: z.string().describe('short name of the gateway'),
  family: familySchema,
  code: z.string(),
})

/** Which gateways pass raw frames on, until when. */
export const airListeningSchema = z.object({
  until: z.string().nullable(),
  sinceMs: z.number().nullable().describe('they have listened without a gap since; null: nobody does'),
  gateways: z.array(z.object({ node: z.string(), name: z.string(), why: z.string().nullable() })),
})
export type AirListening = z.infer<typeof airListeningSchema>

export const airAnswerSchema = z.object({
  bursts: z.array(airBurstSchema),
  listening: airListeningSchema,
})

export const listenWishSchema = z.strictObject({ forS: z.int().min(0).max(600) })

import { z } from 'zod'
import { CHECKS } from '../core/proof/line'

const lineSchema = z.object({
  thing: z.string(),
  topic: z.string(),
  name: z.string(),
  check: z.enum(CHECKS),
  verdict: z.enum(['passed', 'failed', 'not tried']),
  words: z.string(),
  ms: z.number().optional(),
})

/** A report as it is kept and told. */
export const reportSchema = z.object({
  root: z.string(),
  began: z.string(),
  listenedS: z.number(),
  messages: z.number(),
  things: z.array(z.object({ title: z.string(), at: z.string(), id: z.string() })),
  lines: z.array(lineSchema),
  medians: z.record(z.string(), z.number()),
})

/** One run of the contract test, kept. `node` null: of all nodes. */
export const proofSchema = z.object({
  id: z.number(),
  began: z.string(),
  ended: z.string(),
  byClock: z.boolean(),
  node: z.string().nullable(),
  report: reportSchema,
})
export type Proof = z.infer<typeof proofSchema>

/** What a run is to do. */
export const proofWishSchema = z.strictObject({
  node: z.uuid().nullable(),
  listenS: z.number().min(1).max(7200),
  /** Commands to outputs that are off: nothing acts. */
  commands: z.boolean(),
  /** Outputs are switched and put back; each is asked for first. */
  act: z.boolean(),
  /** Links are cut, boards started anew: by a person, or by the simulated board itself. */
  hands: z.boolean(),
  /** Parts are taken off, one after the other, by a person or by the simulated board: each has to say null. */
  away: z.boolean().default(false),
})
export type ProofWish = z.infer<typeof proofWishSchema>

/** A run that goes on. `question`: what a person is asked, and under which number it is answered. */
export const proofGoingSchema = z.object({
  node: z.string().nullable(),
  began: z.string(),
  byClock: z.boolean(),
  doing: z.string(),
  share: z.number().nullable(),
  question: z.object({ n: z.number(), words: z.string() }).nullable(),
})
export type ProofGoing = z.infer<typeof proofGoingSchema>

/** Runs by the clock: they listen, and do nothing else. */
export const proofScheduleSchema = z.strictObject({
  everyH: z.number().min(1).max(720),
  listenS: z.number().min(10).max(7200),
})
export type ProofSchedule = z.infer<typeof proofScheduleSchema>

export const proofsSchema = z.object({
  proofs: z.array(proofSchema),
  going: proofGoingSchema.nullable(),
  schedule: proofScheduleSchema.nullable(),
  /** Why the last one came to nothing. */
  trouble: z.string().nullable(),
})

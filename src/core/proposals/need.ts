import { z } from 'zod'
import { conditioningChangeSchema, idSchema } from '../model/design'
import { triggerSchema } from '../model/behaviour'
import needFile from '../../../catalog/needs.json'

const words = z.array(z.string().min(1))
const seconds = z.number().min(0).optional()
/** `PART.CHANNEL` of a way. */
const signalName = z.string().regex(/^[a-z0-9]+\.[a-z0-9-]+$/)

const tells = z.strictObject({
  signal: signalName,
  on: triggerSchema,
  onForS: seconds,
  off: triggerSchema.optional(),
  offForS: seconds,
})

const acts = z.strictObject({ signal: signalName, on: z.boolean(), off: z.boolean().optional() })
/** What can set something off, and what can be set off by it. */
const CAUSES = ['presence', 'press', 'switch', 'sound'] as const
const ACTS = ['light', 'opener'] as const
export type Cause = (typeof CAUSES)[number]
export type Act = (typeof ACTS)[number]

const waySchema = z.strictObject({
  name: z.string(),
  asked: words.default([]).describe('words that ask for this way rather than another'),
  most: z.int().positive().optional().describe('beyond this many another way is better'),
  parts: z.array(
    z.strictObject({
      id: idSchema,
      kind: z.string(),
      settings: z.record(z.string(), z.union([z.string(), z.number()])).default({}),
      feeds: z
        .record(z.string(), z.string())
        .default({})
        .describe('terminal → terminal of another part of the way, or 12V'),
      signals: z.record(
        z.string(),
        z.strictObject({
          slug: z.string(),
          set: conditioningChangeSchema.optional().describe('conditioning'),
          opposite: signalName.optional().describe('input it is the opposite of when power comes back'),
          publish: z.strictObject({ intervalS: z.number() }).optional(),
        }),
      ),
    }),
  ),
  load: z.string().optional().describe('part kind that is switched, by the part kind `by`, as the signal sw.out'),
  by: z.string().optional(),
  slug: z.string().optional(),
  set: z.record(z.string(), z.number()).optional(),
  matrix: z.boolean().optional().describe('keys in the smallest matrix that takes them'),
  expander: z.boolean().optional().describe('keys behind expanders'),
  feeding: z.string().optional().describe('terminal of the way that can feed the node'),
  inner: z
    .array(z.strictObject({ from: signalName, when: z.boolean(), to: signalName, do: z.boolean() }))
    .default([])
    .describe('rules that belong to the thing itself'),
  tells: z.partialRecord(z.enum(CAUSES), tells).default({}),
  acts: z.partialRecord(z.enum(ACTS), acts).default({}),
  awake: z.boolean().default(false).describe('cannot do its work on a node that sleeps'),
  why: z.string(),
  costs: z.string(),
})
export type Way = z.infer<typeof waySchema>

export const needSchema = z.strictObject({
  id: z.string(),
  asks: z.string().describe('what is asked for, to be read after “It should know or do:”'),
  phrases: words.describe('any of them asks for it; longer ones first'),
  takes: words.describe('words beside it that belong to it and ask for nothing else'),
  counts: z.boolean().default(false).describe('a number before it is how many'),
  needs12V: z.literal('panel').optional().describe('comes with a 12 V supply that is there'),
  later: z.string().optional().describe('what of it cannot be done yet'),
  laterWhen: words.optional().describe('only where one of these words is there too'),
  ways: z.array(waySchema),
})
export type Need = z.infer<typeof needSchema>

/** Needs with a meaning of their own, the more particular ones first. */
export const NEEDS: readonly Need[] = z.array(needSchema).parse(needFile)

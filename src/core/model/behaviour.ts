import { z } from 'zod'

/** Words that designs and node files share for what a node does by itself. */
export { isFollowing, START_STATES } from '../catalog/startStates'

/** What a key can say. Times between strokes are stated beside it. */
export const PATTERNS = [
  'single',
  'double',
  'triple',
  'quadruple',
  'long',
  'short-long',
  'long-short',
  'long-release',
  'repeat',
] as const
export type Pattern = (typeof PATTERNS)[number]

export const gapMs = z
  .number()
  .min(100, 'at least 100 ms: no finger is faster')
  .max(2000, 'at most 2000 ms')
  .describe('the next stroke of a pattern begins within this, ms')
export const longMs = z
  .number()
  .min(200, 'at least 200 ms')
  .max(5000, 'at most 5000 ms')
  .describe('held this long a stroke is long, ms')

/** Distance a reading has to come back before the same crossing counts again, in its own unit. */
const band = z.number().min(0).optional().describe('comes back by this much before it counts again; left out: 0')

/** A word an event says. */
export const saidWord = z
  .string()
  .regex(/^[a-z0-9][a-z0-9-]{0,23}$/, 'a short word of lower-case letters, digits and hyphens')

/**
 * What an input must do for a rule to act: a press, a click of a knob, a state, unknown (null), gone – unknown for so
 * long that nobody would count on it any more –, a reading that crosses a value in its own unit, or one of a state’s words.
 */
export const triggerSchema = z.union([
  z.enum(PATTERNS),
  z.enum(['left', 'right']),
  z.boolean(),
  z.null(),
  z.literal('gone'),
  z.strictObject({ above: z.number(), band }),
  z.strictObject({ below: z.number(), band }),
  z.strictObject({ is: z.string().max(24) }).describe('a state of more than two words is this one'),
  z.strictObject({ says: saidWord }).describe('a sender that is heard on the air says this word'),
])
export type Trigger = z.infer<typeof triggerSchema>

/** What a rule waits for must have lasted this long before it acts, s. */
export const forS = z.number().min(0).max(86_400, 'at most a day')

/** True for what happens in a moment and cannot last. */
export const isMoment = (when: Trigger): boolean => momentOf(when) !== null

/** The word of what happens in a moment. */
export function momentOf(when: Trigger): string | null {
  if (typeof when === 'string') return when === 'gone' ? null : when
  return when !== null && typeof when === 'object' && 'says' in when ? when.says : null
}

export const doSchema = z.union([z.boolean(), z.number().min(0).max(100), z.literal('toggle')])
export const WORKS = ['always', 'alone', 'detached'] as const
export type Works = (typeof WORKS)[number]

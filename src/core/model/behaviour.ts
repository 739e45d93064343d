import { z } from 'zod'

/** Words that designs and node files share for what a node does by itself. */
export { START_STATES } from '../catalog/startStates'

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

/**
 * What an input must do for a rule to act: a press, a click of a knob, a state, unknown (null), or a reading that
 * crosses a value in its own unit.
 */
export const triggerSchema = z.union([
  z.enum(PATTERNS),
  z.enum(['left', 'right']),
  z.boolean(),
  z.null(),
  z.strictObject({ above: z.number() }),
  z.strictObject({ below: z.number() }),
])
export type Trigger = z.infer<typeof triggerSchema>

export const doSchema = z.union([z.boolean(), z.number().min(0).max(100), z.literal('toggle')])
export const WORKS = ['always', 'alone', 'detached'] as const
export type Works = (typeof WORKS)[number]

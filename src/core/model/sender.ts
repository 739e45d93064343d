import { z } from 'zod'
import { type Family, familyFiguresSchema, fitsFamily, MOST_BITS } from '../radio/subghz/family'
import { mediumSchema } from '../radio/media'
import { saidWord } from './behaviour'
import { idSchema, nameSchema, slugSchema } from './ids'

export const MOST_SENDERS = 120
export const MOST_FAMILIES = 60

/** A code, or a piece of one: 0, 1, f, and a dot for a bit that may be either. */
export const patternSchema = z
  .string()
  .regex(/^[01f.]+$/, 'bits as 0 and 1, f for the third state, a dot for either')
  .max(MOST_BITS)

/** Longest that a state is believed without being said again, s: a week. */
export const LONGEST_STATE_S = 604_800

const named = { order: z.int().min(0), name: nameSchema, slug: slugSchema }
const ends = {
  endS: z
    .int()
    .min(1)
    .max(LONGEST_STATE_S)
    .describe('how long a state is believed without being said again, s: none lasts for ever'),
}

/** One thing a sender tells. */
export const senderSignalSchema = z.discriminatedUnion('kind', [
  z
    .strictObject({ kind: z.literal('event'), ...named, words: z.record(patternSchema, saidWord) })
    .describe('it happened: a press, a ring, a movement; which word each code is'),
  z
    .strictObject({
      kind: z.literal('state'),
      ...named,
      on: patternSchema.describe('code that says it is on'),
      off: patternSchema.nullable().describe('code that says it is off; null: the sender has none, and the state ends'),
      ...ends,
      then: z.enum(['off', 'unknown']).describe('what it is when it has ended'),
      said: z.strictObject({ on: z.string().min(1).max(24), off: z.string().min(1).max(24) }).describe('in words'),
    })
    .describe('it is so until something else is said, or until it ends'),
  z
    .strictObject({
      kind: z.literal('flag'),
      ...named,
      role: z.enum(['battery-low', 'tamper']),
      at: z
        .int()
        .min(0)
        .max(MOST_BITS - 1)
        .describe('its bit, counted from the first said'),
      is: z.enum(['0', '1']).describe('what that bit is when it is so'),
      ...ends,
    })
    .describe('how the sender itself is: low battery, opened'),
])
export type SenderSignal = z.infer<typeof senderSignalSchema>

/** A far thing that is heard and was not built here. */
export const senderSchema = z.strictObject({
  order: z.int().min(0),
  name: nameSchema,
  slug: slugSchema.describe('second level of its topics; nodes and senders share one list of them'),
  tag: z.string().regex(/^Z[1-9][0-9]?[0-9]?$/),
  place: idSchema.nullable(),
  medium: mediumSchema,
  family: idSchema,
  address: patternSchema.describe('what all of its codes have in common; dots elsewhere'),
  signals: z.record(idSchema, senderSignalSchema),
  everyS: z.int().min(0).max(LONGEST_STATE_S).describe('it should be heard this often at least, s; 0: nobody can say'),
  receivers: z.array(z.uuid()).max(8).describe('nodes that carry it, in the order in which they speak for it'),
})
export type Sender = z.infer<typeof senderSchema>

/** The next tag nobody has. */
export function senderTag(taken: Iterable<string>): string {
  const had = new Set(taken)
  for (let n = 1; ; n++) if (!had.has(`Z${n}`)) return `Z${n}`
}

/** Codes a signal listens for. */
export function patternsOf(signal: SenderSignal): string[] {
  if (signal.kind === 'event') return Object.keys(signal.words)
  if (signal.kind === 'state') return [signal.on, ...(signal.off === null ? [] : [signal.off])]
  return []
}

/** What is wrong with a sender of this family, and what would be accepted; null when nothing is. */
export function senderFault(sender: Sender, family: Family): { refused: string; accepts: string } | null {
  const bits = `${family.bits} ${family.open ? 'symbols' : 'bits'}`
  const fits = (pattern: string) => fitsFamily(family, pattern.replaceAll('.', '0'))
  const patterns = Object.values(sender.signals).flatMap(patternsOf)
  if ([sender.address, ...patterns].some((p) => !fits(p)))
    return {
      refused: `a code of “${family.name}” has ${bits}`,
      accepts: `${bits} of 0 and 1${family.open ? ' and f' : ''}`,
    }
  if (!/[01f]/.test(sender.address))
    return { refused: 'without any bit of its own every sender would be it', accepts: 'an address' }
  for (const signal of Object.values(sender.signals)) {
    if (signal.kind === 'flag' && signal.at >= family.bits)
      return { refused: `bit ${signal.at + 1} is none of it`, accepts: `1 to ${family.bits}` }
    const own = patternsOf(signal)
    if (own.some((a, i) => own.some((b, k) => k < i && overlap(a, b))))
      return { refused: `${signal.name}: one code would say two things`, accepts: 'codes that differ in some bit' }
    if (own.some((p) => !overlap(p, sender.address)))
      return { refused: `${signal.name}: a code that is not of its address`, accepts: sender.address }
    if (signal.kind === 'event' && own.length === 0)
      return { refused: `${signal.name} listens for nothing`, accepts: 'a code' }
  }
  const slugs = Object.values(sender.signals).map((s) => s.slug)
  if (new Set(slugs).size < slugs.length)
    return { refused: 'two of its signals have one topic', accepts: 'another short name' }
  const reserved = slugs.find((s) => RESERVED.has(s))
  return reserved === undefined
    ? null
    : { refused: `“${reserved}” has a meaning of its own in the topics of a sender`, accepts: 'another short name' }
}

/** Last levels of a sender’s topics that are no signals. */
const RESERVED = new Set(['heard', 'via', 'td', 'status', 'set', 'done'])

/** Whether some code fits both. */
export const overlap = (a: string, b: string): boolean =>
  a.length === b.length && [...a].every((x, i) => x === b[i] || x === '.' || b[i] === '.')

/** Whether a code as heard is of a pattern. */
export const isOf = (code: string, pattern: string): boolean =>
  code.length === pattern.length && [...pattern].every((x, i) => x === '.' || x === code[i])

/** What senders are to the file of a node that carries them: all a board needs to understand them. */
export const airSchema = z.strictObject({
  families: z.array(familyFiguresSchema).max(24),
  senders: z
    .array(
      z.strictObject({
        slug: slugSchema,
        family: z.int().min(0).max(23).describe('place in the list of families'),
        address: patternSchema,
        rank: z.int().min(0).max(7).optional().describe('place among its receivers; left out: the first'),
        others: z.array(slugSchema).max(7).optional().describe('other receivers, in order'),
        signals: z
          .array(
            z.strictObject({
              slug: slugSchema,
              kind: z.enum(['event', 'state']),
              codes: z.record(patternSchema, z.union([z.boolean(), saidWord])).optional(),
              at: z
                .int()
                .min(0)
                .max(MOST_BITS - 1)
                .optional()
                .describe('bit that says it'),
              is: z.enum(['0', '1']).optional(),
              endS: z.int().min(1).max(LONGEST_STATE_S).optional(),
              then: z.boolean().nullable().optional().describe('what it is when it has ended; left out: unknown'),
            }),
          )
          .max(16),
      }),
    )
    .max(64),
})
export type AirFile = z.infer<typeof airSchema>

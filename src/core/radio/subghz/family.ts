import { z } from 'zod'

/** A gap of this length ends a frame, µs; a receiver cuts trains there. */
export const GAP_US = 3500
/** Fewest and most pulses of a frame that a receiver cuts out. */
export const [LEAST_PULSES, MOST_PULSES] = [24, 132]
export const MOST_BITS = 64

const multiple = z.number().min(0.5).max(80).multipleOf(0.25)
const symbol = z
  .array(multiple)
  .min(2)
  .max(8)
  .refine((s) => s.length % 2 === 0, 'as many highs as lows')

export const PART_ROLES = ['address', 'channel', 'command', 'battery-low', 'tamper'] as const
export type PartRole = (typeof PART_ROLES)[number]

const fields = z.strictObject({
  name: z.string().trim().min(1, 'a name').max(60, 'at most 60 characters'),
  baseUs: z.int().min(60).max(2000).describe('base length T, µs'),
  lead: z
    .array(multiple)
    .max(8)
    .refine((s) => s.length % 2 === 0, 'as many highs as lows')
    .default([])
    .describe('pulses between the gap and the first bit, high and low in turn, in T'),
  zero: symbol.describe('bit 0: high and low in turn, in T'),
  one: symbol.describe('bit 1'),
  open: symbol.nullable().default(null).describe('third state of a tri-state code; null: there are two'),
  sync: z
    .tuple([multiple, multiple])
    .describe('after the last bit: a high, and the gap before the frame is said again, in T'),
  bits: z.int().min(8).max(MOST_BITS).describe('symbols of a frame'),
  repeats: z.int().min(2).max(40).describe('how often a sender says its frame'),
  rolling: z
    .boolean()
    .default(false)
    .describe('its codes change with every press: they are told from others, and never said by anybody else'),
  tolerance: z.number().min(0.1).max(0.9).default(0.5).describe('how far a pulse may be off, in T'),
  parts: z
    .array(
      z.strictObject({
        role: z.enum(PART_ROLES),
        at: z
          .int()
          .min(0)
          .max(MOST_BITS - 1)
          .describe('first of its bits, counted from the first said'),
        bits: z.int().min(1).max(MOST_BITS),
      }),
    )
    .max(12)
    .default([])
    .describe('what bits are there for, where it is known; what is in none is address'),
})

/** How senders of one make say their codes, as data: everything that decodes it follows from this. */
export const familySchema = fields.superRefine((f, ctx) => {
  const say = (path: string, message: string) => ctx.addIssue({ code: 'custom', path: [path], message })
  const symbols = [f.zero, f.one, ...(f.open ? [f.open] : [])]
  if (symbols.some((s) => s.length !== f.zero.length)) say('one', 'as many pulses as bit 0 has')
  else if (symbols.some((a, i) => symbols.some((b, k) => k < i && farthest(a, b) < 2 * f.tolerance)))
    say(
      'tolerance',
      'two symbols are nearer to each other than twice the tolerance: they could be taken for one another',
    )
  const longest = Math.max(...symbols.flat(), ...f.lead)
  const gapUs = f.sync[1] * f.baseUs
  if (gapUs < GAP_US * 1.03)
    say('sync', `a gap of at least ${Math.ceil(GAP_US * 1.03)} µs; this is ${Math.round(gapUs)}`)
  if (longest * f.baseUs > GAP_US * 0.8)
    say('zero', `no pulse longer than ${GAP_US * 0.8} µs: it would be taken for the gap`)
  const pulses = pulsesOf(f)
  if (pulses < LEAST_PULSES || pulses > MOST_PULSES)
    say('bits', `a frame of ${LEAST_PULSES} to ${MOST_PULSES} pulses; this has ${pulses}`)
  if (f.parts.some((p) => p.at + p.bits > f.bits)) say('parts', 'bits that a frame has')
})
export type Family = z.infer<typeof familySchema>

const farthest = (a: readonly number[], b: readonly number[]): number =>
  Math.max(...a.map((x, i) => Math.abs(x - (b[i] ?? x))))

/** Pulses of a whole frame, its last high included. */
export const pulsesOf = (f: Pick<Family, 'lead' | 'zero' | 'bits'>): number =>
  f.lead.length + f.bits * f.zero.length + 1

/** Positions of a role in a code; with no parts described, the last four of twenty and more say what is meant. */
export function positionsOf(f: Pick<Family, 'bits' | 'parts'>, role: PartRole): number[] {
  const all = Array.from({ length: f.bits }, (_, i) => i)
  const inPart = (i: number, r: PartRole) => f.parts.some((p) => p.role === r && i >= p.at && i < p.at + p.bits)
  if (f.parts.length > 0)
    return all.filter((i) => inPart(i, role) || (role === 'address' && !f.parts.some((p) => inPart(i, p.role))))
  const command = f.bits >= 20 ? 4 : 0
  if (role === 'address') return all.slice(0, f.bits - command)
  return role === 'command' && command > 0 ? all.slice(-command) : []
}

/** Whether a code of this family has the form it must have. */
export const fitsFamily = (f: Pick<Family, 'bits' | 'open'>, code: string): boolean =>
  code.length === f.bits && (f.open ? /^[01f]*$/ : /^[01]*$/).test(code)

/** A family in figures a chip decodes with: lengths in whole µs. What the node file carries. */
export const familyFiguresSchema = z.strictObject({
  t: z.int().min(1).max(2000).describe('base length, µs'),
  lead: z.array(z.int().min(1)).max(8).optional().describe('pulses before the first bit, µs; left out: none'),
  zero: z.array(z.int().min(1)).min(2).max(8).describe('bit 0, high and low in turn, µs'),
  one: z.array(z.int().min(1)).min(2).max(8).describe('bit 1, µs'),
  open: z.array(z.int().min(1)).min(2).max(8).optional().describe('third state, µs; left out: there are two'),
  high: z.int().min(1).describe('high after the last bit, µs'),
  gap: z.int().min(1).describe('gap after it, µs'),
  n: z.int().min(8).max(MOST_BITS).describe('symbols of a frame'),
  tol: z.int().min(1).describe('how far a pulse may be off, µs'),
})
export type FamilyFigures = z.infer<typeof familyFiguresSchema>

export function familyFigures(f: Family): FamilyFigures {
  const us = (m: number) => Math.round(m * f.baseUs)
  return {
    t: f.baseUs,
    ...(f.lead.length > 0 ? { lead: f.lead.map(us) } : {}),
    zero: f.zero.map(us),
    one: f.one.map(us),
    ...(f.open ? { open: f.open.map(us) } : {}),
    high: us(f.sync[0]),
    gap: us(f.sync[1]),
    n: f.bits,
    tol: us(f.tolerance),
  }
}

/** A family in a file of its own. */
export const familyFileSchema = z.strictObject({
  format: z.literal('vivid-node/radio-family'),
  version: z.literal(1),
  family: familySchema,
})

export const familyText = (family: Family): string =>
  `${JSON.stringify({ format: 'vivid-node/radio-family', version: 1, family }, null, 1)}\n`

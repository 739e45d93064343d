import { z } from 'zod'
import { romSchema } from '../model/design'

export type Scalar = number | boolean | string | null

const PLAIN_NUMBER = /^-?(?:0|[1-9][0-9]*)(?:\.[0-9]+)?$/

export type ParsedPayload = { ok: true; value: Scalar } | { ok: false; reason: string }

/** A signal's payload: one JSON scalar. Anything else is refused with what was found. */
export function parseScalar(text: string): ParsedPayload {
  // Most payloads are plain numbers, and there are many of them.
  if (text.length < 16 && PLAIN_NUMBER.test(text)) return { ok: true, value: Number(text) }
  const json = parseJson(text)
  if (!json.ok) return json
  const { value } = json
  if (value === null || typeof value === 'boolean' || typeof value === 'string') return { ok: true, value }
  if (typeof value === 'number')
    return Number.isFinite(value) ? { ok: true, value } : { ok: false, reason: 'a number outside what JSON can carry' }
  return {
    ok: false,
    reason: `found ${Array.isArray(value) ? 'a list' : 'an object'}, expected one number, boolean, word or null`,
  }
}

export const statusSchema = z.discriminatedUnion('is', [
  z.object({ is: z.literal('online') }),
  z.object({ is: z.literal('offline') }),
  z.object({ is: z.literal('asleep'), for: z.number(), back: z.number().nullable() }),
])
export type NodeStatus = z.infer<typeof statusSchema>

/** A sleeper that is later than this beyond its word is gone: it has to start, join and log in first. */
const LATE_S = 60

/**
 * True when a node said when it would be back and has not come. Times: `now` and `back` in seconds UTC, `heardAt` when
 * it said so.
 */
export function isOverdue(status: NodeStatus, heardAtS: number, nowS: number): boolean {
  return status.is === 'asleep' && nowS > (status.back ?? heardAtS + status.for) + LATE_S
}

export const healthSchema = z.object({
  dbm: z.number().nullable(),
  uptimeS: z.number(),
  freeB: z.number().nullable(),
  supplyV: z.number().nullable(),
  restart: z.string(),
  revision: z.int(),
  /** Who set its clock, how long ago, and by how much it runs slow, 1e-6; absent while it knows no time. */
  clock: z.object({ by: z.enum(['sntp', 'broker']), ageS: z.number(), ppm: z.number().nullable() }).optional(),
})
export type NodeHealth = z.infer<typeof healthSchema>

/** What a node says about the file it runs. */
export const configReportSchema = z.object({
  revision: z.int(),
  hash: z.string(),
  /** It takes a new file in pieces of so many bytes; absent where it takes only a whole one. */
  pieces: z.int().min(64).max(65_536).optional(),
})

/** What a node says went wrong: at a signal, by its short name, or with itself. */
export const faultSchema = z.object({ what: z.string().max(300), where: z.string().max(60).nullable().default(null) })

/** A part found on a one-wire line: chip pin, address, and how warm it is, °C. */
export const foundSchema = z.object({ pin: z.int(), rom: romSchema, celsius: z.number().nullable() })
export type Found = z.infer<typeof foundSchema>

/** Answer to a command or to a new node file. */
export const doneSchema = z.object({
  id: z.string().nullable(),
  result: z.enum(['done', 'refused', 'returned', 'trying', 'piece']),
  /** Of a file in pieces: the one that is wanted next. */
  next: z.int().min(0).optional(),
  reason: z.string().optional(),
  found: z.array(foundSchema).max(64).optional(),
  /** Of close listening: samples a second the board takes in all, and how often each signal is heard, ms; null: as it comes. */
  perS: z.number().positive().optional(),
  rates: z
    .array(z.object({ signal: z.string(), everyMs: z.number().positive().nullable() }))
    .max(8)
    .optional(),
})
export type Done = z.infer<typeof doneSchema>

const closely = { signal: z.string().max(60), n: z.int().min(0), uptimeMs: z.number() }
/**
 * What close listening tells: readings before anything was made of them, from `uptimeMs` on at `everyMs` from one to the
 * next; or the edges of a contact in µs from its first, looked at every `stepUs`, which made it `first`.
 */
export const closeSchema = z.union([
  z.object({ ...closely, everyMs: z.number().positive(), raw: z.array(z.number().nullable()).min(1).max(100) }),
  z.object({
    ...closely,
    stepUs: z.number().positive(),
    first: z.int().min(0).max(1),
    edgesUs: z.array(z.number().min(0)).min(1).max(100),
  }),
])
export type CloselyHeard = z.infer<typeof closeSchema>

export type ParsedObject<T> = { ok: true; value: T } | { ok: false; reason: string }

export function parseObject<T>(schema: z.ZodType<T>, text: string): ParsedObject<T> {
  const json = parseJson(text)
  if (!json.ok) return json
  const parsed = schema.safeParse(json.value)
  if (parsed.success) return { ok: true, value: parsed.data }
  const issue = parsed.error.issues[0]
  return { ok: false, reason: `${issue?.path.join('.') || 'payload'}: ${issue?.message ?? 'not as described'}` }
}

function parseJson(text: string): { ok: true; value: unknown } | { ok: false; reason: string } {
  try {
    return { ok: true, value: JSON.parse(text) }
  } catch {
    return { ok: false, reason: `not JSON: “${text.slice(0, 40)}”` }
  }
}

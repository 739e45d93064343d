import { z } from 'zod'
import { boardSchema } from '../catalog/board'
import { partKindSchema } from '../catalog/part'

/** Short, opaque, permanent id inside a design. */
export const idSchema = z.string().regex(/^[a-z0-9]{2,24}$/, 'a short id of lower-case letters and digits')
  .refine((id) => !(id in Object.prototype), 'an id that is not a word of the language')
export const slugSchema = z.string().regex(/^[a-z0-9-]{1,40}$/, 'lower-case letters, digits and hyphens, 1 to 40 of them')

/** Last topic levels that have a meaning of their own and cannot name a signal. */
export const RESERVED_SLUGS = ['status', 'health', 'fault', 'td', 'config', 'vault', 'rx', 'set', 'done'] as const

export const nameSchema = z.string().trim().min(1, 'a name of at least one character').max(60, 'a name of at most 60 characters')
const lineKey = z.string().regex(/^[a-z0-9]+\.[a-z0-9-]+$/)
const settingValue = z.union([z.number(), z.string().max(60)])

export const conditioningSchema = z.strictObject({
  median: z.union([z.literal(1), z.literal(3), z.literal(5), z.literal(7), z.literal(9)]).describe('readings in the median, odd'),
  averageS: z.number().min(0).max(3600).describe('time constant of the exponential average, s; 0 is none'),
  mountM: z.number().min(0).max(50).nullable().describe('height of the sensor over the empty level, m; null publishes the distance itself'),
  debounceMs: z.number().min(0).max(500),
  longestOnS: z.number().min(0).max(86400).describe('output switches itself off after this, s; 0 is never'),
  atStart: z.literal('off'),
})

export const calibrationSchema = z.strictObject({
  recordId: z.string().uuid(),
  gain: z.number().min(0.1).max(10),
  offset: z.number().min(-1000).max(1000).describe("in the reading's unit"),
  date: z.iso.date(),
  points: z.int().min(1).max(200),
})

const signalSchema = z.strictObject({
  order: z.int().min(0),
  partId: idSchema,
  channel: z.string(),
  name: nameSchema,
  slug: slugSchema,
  tag: z.string().regex(/^[A-Z][1-9][0-9]?$/),
  hue: z.int().min(0).max(7),
  conditioning: conditioningSchema,
  publish: z.strictObject({
    entity: z.boolean(),
    intervalS: z.number().min(0).max(86400),
    change: z.number().min(0),
    decimals: z.int().min(0).max(6),
    unit: z.string(),
  }),
  calibration: calibrationSchema.nullable(),
})

const partSchema = z.strictObject({
  order: z.int().min(0),
  kind: z.string(),
  label: nameSchema,
  settings: z.record(z.string(), settingValue),
  feeds: z.record(z.string(), z.string()).describe('supply terminal → rail of the board, or PART.TERMINAL of a part that feeds'),
  bus: z.string().regex(/^(own|[a-d]|[a-z0-9]{2,24}:[0-7])$/, 'own, a bus letter a to d, or a branch of a multiplexer').nullable().default(null)
    .describe('bus it sits on: a letter, own, or PART:N behind branch N of a multiplexer; null leaves it to the kind of bus'),
})

export const addedSchema = z.discriminatedUnion('type', [
  z.strictObject({
    type: z.literal('divider'), line: lineKey, names: z.tuple([z.string(), z.string()]),
    topOhm: z.number().positive(), bottomOhm: z.number().positive(), tolerance: z.number().min(0).max(0.2),
  }),
  z.strictObject({
    type: z.literal('pull'), line: lineKey, names: z.tuple([z.string()]), level: z.enum(['high', 'low']), ohm: z.number().positive(), tolerance: z.number().min(0).max(0.2),
  }),
])

const wireSchema = z.strictObject({
  number: z.int().min(1),
  made: z.boolean(),
  insulation: z.string().max(30),
  gaugeMm2: z.number().positive(),
})

/** One node, whole: wishes, decisions and the accepted plan. Everything else is derived. Lengths m, times as named. */
export const designSchema = z.strictObject({
  format: z.literal('vivid-node/design'),
  version: z.literal(1),
  id: z.uuid(),
  name: nameSchema,
  slug: slugSchema,
  area: z.string().max(60),
  board: z.strictObject({ id: z.string(), version: z.int() }),
  parts: z.record(idSchema, partSchema),
  signals: z.record(idSchema, signalSchema),
  added: z.record(idSchema, addedSchema),
  wires: z.record(z.string(), wireSchema).describe('by wire key: the ids of its two ends'),
  locks: z.record(lineKey, z.string()).describe('line → printed label of the pin it must keep'),
  keptFree: z.record(z.string(), z.literal(true)).describe('printed labels of pins nothing may use'),
  plan: z.strictObject({ pins: z.record(lineKey, z.string()), basis: z.string() }),
  sleep: z.strictObject({ everyS: z.number().min(5).max(604_800).describe('time from one waking to the next, s') }).nullable().default(null),
  costs: z.record(z.string(), z.number().min(0).max(100_000)).default({}).describe('what one costs here, by id of board or part kind, where it differs from the catalogue'),
  items: z.strictObject({ boards: z.array(boardSchema), parts: z.array(partKindSchema) }).default({ boards: [], parts: [] })
    .describe('catalogue items it uses that do not ship with the product'),
  network: z.strictObject({ ref: z.string(), address: z.enum(['name', 'lease']), keepAliveS: z.int().min(2).max(600) }),
})

export type Design = z.infer<typeof designSchema>
export type DesignPart = Design['parts'][string]
export type Signal = Design['signals'][string]
export type Conditioning = Signal['conditioning']
export type Calibration = z.infer<typeof calibrationSchema>
export type AddedComponent = z.infer<typeof addedSchema>
export type DesignWire = Design['wires'][string]
/** `partId.terminalId` of a terminal that needs a pin. */
export type LineKey = string

export function lineKeyOf(partId: string, terminalId: string): LineKey {
  return `${partId}.${terminalId}`
}

export function splitLineKey(line: LineKey): { partId: string; terminalId: string } {
  const dot = line.indexOf('.')
  return { partId: line.slice(0, dot), terminalId: line.slice(dot + 1) }
}

export interface Identified<T> { id: string; value: T }

/** Entries of a keyed collection in the order the user gave them. */
export function inOrder<T extends { order: number }>(items: Record<string, T>): Identified<T>[] {
  return Object.entries(items)
    .map(([id, value]) => ({ id, value }))
    .sort((a, b) => a.value.order - b.value.order || a.id.localeCompare(b.id))
}

export function emptyDesign(identity: { id: string; name: string; slug: string; area: string; board: Design['board'] }): Design {
  return {
    format: 'vivid-node/design', version: 1, ...identity,
    parts: {}, signals: {}, added: {}, wires: {}, locks: {}, keptFree: {},
    plan: { pins: {}, basis: '' }, sleep: null, costs: {}, items: { boards: [], parts: [] },
    network: { ref: 'house', address: 'lease', keepAliveS: 10 },
  }
}

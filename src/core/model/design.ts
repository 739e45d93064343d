import { z } from 'zod'
import { calibrationSchema } from '../calibration/calibrationSchema'
import { boardSchema } from '../catalog/board'
import { partKindSchema } from '../catalog/part'
import { airSourceSchema } from './airSource'
import { doSchema, forS, triggerSchema, WORKS } from './behaviour'
import { groupSchema } from './group'
import { conditioningSchema } from './conditioning'
import { idSchema, nameSchema, slugSchema } from './ids'

export { conditioningChangeSchema, type Conditioning } from './conditioning'
export { idSchema, nameSchema, slugSchema } from './ids'

/** Last topic levels that have a meaning of their own and cannot name a signal. */
export const RESERVED_SLUGS = [
  'status',
  'health',
  'fault',
  'td',
  'config',
  'vault',
  'rx',
  'set',
  'done',
  'close',
  'strength',
  'late',
  'heard',
  'find',
] as const

const lineKey = z.string().regex(/^[a-z0-9]+\.[a-z0-9-]+$/)
const settingValue = z.union([z.number(), z.string().max(60)])

export const ruleSchema = z.strictObject({
  from: idSchema.or(airSourceSchema).describe('a signal of the node, or what a sender says that it carries'),
  when: triggerSchema,
  forS: forS.default(0).describe('what it waits for has lasted this long, s; 0 acts at once'),
  to: idSchema,
  do: doSchema,
  works: z
    .enum(WORKS)
    .describe('always; alone, while there is no broker; or detached: the input does not switch what is beside it'),
})
export type DesignRule = z.infer<typeof ruleSchema>

export const guardSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('exclusive'), of: z.array(idSchema).min(2, 'at least two outputs').max(8) }),
  z.strictObject({ kind: z.literal('needs'), output: idSchema, input: idSchema, is: z.boolean() }),
])
export type DesignGuard = z.infer<typeof guardSchema>

const ip = z.ipv4('an address of four numbers, like 192.168.1.20')
export const fixedAddressSchema = z.strictObject({ ip, mask: ip, gateway: ip, dns: ip })

const signalSchema = z.strictObject({
  order: z.int().min(0),
  partId: idSchema,
  channel: z.string().max(100),
  of: idSchema.nullable().default(null).describe('of a state that is made of a reading of this part: that signal'),
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
    unit: z.string().max(100),
    role: z
      .enum(['main', 'diagnostic'])
      .default('main')
      .describe('main: what the thing is there for; diagnostic: what tells how it is itself'),
  }),
  calibration: calibrationSchema.nullable(),
})

/**
 * How an old sensor was connected where it was found, so that it can be put back: terminals as printed on the old
 * panel.
 */
export const foundSchema = z.strictObject({
  terminal: z.string().max(40),
  supply: z.string().max(40),
  common: z.string().max(40),
  signal: z.string().max(40),
  note: z.string().max(200),
})
export type Found = z.infer<typeof foundSchema>

/** Address of a part on a one-wire line: family, six bytes of its own, checksum. */
export const romSchema = z.string().regex(/^[0-9a-f]{16}$/, 'sixteen hexadecimal digits, as the search gives them')

const partSchema = z.strictObject({
  order: z.int().min(0),
  kind: z.string().max(100),
  label: nameSchema,
  settings: z.record(z.string(), settingValue),
  feeds: z
    .record(z.string(), z.string().max(100))
    .describe(
      'supply terminal → rail of the board, or PART.TERMINAL of a part or contact that feeds; contact or return of a load → the rail or terminal it is joined to',
    ),
  bus: z
    .string()
    .regex(/^(own|[a-d]|[a-z0-9]{2,24}:[0-7])$/, 'own, a bus letter a to d, or a branch of a multiplexer')
    .nullable()
    .default(null)
    .describe(
      'bus it sits on: a letter, own, or PART:N behind branch N of a multiplexer; null leaves it to the kind of bus',
    ),
  cableM: z.number().min(0.01).max(100).default(0.3).describe('length of its cable to the board, m'),
  rom: romSchema
    .nullable()
    .default(null)
    .describe('address of a part on a one-wire line; null: it is the only one there, or nobody knows it yet'),
  outdoor: z.boolean().default(false).describe('its cable or the part itself is outside'),
  found: foundSchema.nullable().default(null),
})

const onLine = { line: lineKey }
const onRail = { rail: z.string().max(50).describe('rail of the board, or PART.TERMINAL where one begins') }
const ohm = z.number().positive().max(1e8)
const tolerance = z.number().min(0).max(0.2)
const farad = z.number().positive().max(0.1)

/** Components the design adds: in the run of a line, from it to a rail, or at a rail. SI units. */
export const addedSchema = z.discriminatedUnion('type', [
  z.strictObject({
    type: z.literal('divider'),
    ...onLine,
    names: z.tuple([z.string().max(100), z.string().max(100)]),
    topOhm: ohm,
    bottomOhm: ohm,
    tolerance,
  }),
  z.strictObject({
    type: z.literal('pull'),
    ...onLine,
    names: z.tuple([z.string().max(100)]),
    level: z.enum(['high', 'low']),
    ohm,
    tolerance,
  }),
  z.strictObject({ type: z.literal('series'), ...onLine, names: z.tuple([z.string().max(100)]), ohm, tolerance }),
  z
    .strictObject({ type: z.literal('capacitor'), ...onLine, names: z.tuple([z.string().max(100)]), farad })
    .describe('from the line to ground, at the pin'),
  z
    .strictObject({ type: z.literal('clamp'), ...onLine, names: z.tuple([z.string().max(100)]) })
    .describe('pair of Schottky diodes from the line to 3.3 V and to ground, at the pin'),
  z
    .strictObject({
      type: z.literal('bias'),
      ...onLine,
      names: z
        .tuple([z.string().max(100), z.string().max(100), z.string().max(100)])
        .describe('resistor to 3.3 V, resistor to ground, capacitor to ground'),
      topOhm: ohm,
      bottomOhm: ohm,
      farad,
      tolerance,
    })
    .describe('holds the other lead of something that swings at a middle voltage'),
  z
    .strictObject({ type: z.literal('burden'), ...onLine, names: z.tuple([z.string().max(100)]), ohm, tolerance })
    .describe('across a current transformer, at the part'),
  z
    .strictObject({
      type: z.literal('diode'),
      ...onLine,
      names: z.tuple([z.string().max(100)]),
      ratedA: z.number().positive().max(100).default(1),
      fast: z.boolean().default(false).describe('fast or Schottky: under pulse width an ordinary one is too slow'),
    })
    .describe('across the coil this line switches, cathode to plus'),
  z
    .strictObject({
      type: z.literal('driver'),
      ...onLine,
      names: z
        .tuple([z.string().max(100), z.string().max(100), z.string().max(100)])
        .describe('transistor, its series resistor, its resistor to ground'),
      device: z.enum(['npn', 'fet']),
      seriesOhm: ohm,
      holdOhm: ohm,
      tolerance,
    })
    .describe('low-side transistor between pin and part: a high pin pulls the part low'),
  z
    .strictObject({
      type: z.literal('optocoupler'),
      ...onLine,
      names: z
        .tuple([z.string().max(100), z.string().max(100), z.string().max(100)])
        .describe('coupler, its series resistor, its reversed diode'),
      seriesOhm: ohm,
      tolerance,
    })
    .describe('between a foreign voltage and the pin: voltage there reads low here'),
  z
    .strictObject({
      type: z.literal('shifter'),
      ...onLine,
      names: z.tuple([z.string().max(100)]),
      rail: z.string().max(50),
    })
    .describe('one channel of a level shifter to the voltage of this rail'),
  z.strictObject({
    type: z.literal('fuse'),
    ...onRail,
    names: z.tuple([z.string().max(100)]),
    ratedA: z.number().positive().max(63),
    slow: z.boolean().default(false).describe('time-lag'),
  }),
  z
    .strictObject({ type: z.literal('feed-diode'), ...onRail, names: z.tuple([z.string().max(100)]) })
    .describe('Schottky diode between this rail and the board it feeds, so that it and USB never feed one another'),
  z
    .strictObject({
      type: z.literal('quench'),
      part: idSchema,
      names: z.tuple([z.string().max(100)]),
      device: z.enum(['diode', 'rc', 'varistor']),
      ratedA: z.number().positive().max(100).default(1),
    })
    .describe(
      'across a load, for the current its coil goes on with when the contact opens: a diode on direct current, never on alternating',
    ),
  z
    .strictObject({ type: z.literal('bulk'), ...onRail, names: z.tuple([z.string().max(100)]), farad })
    .describe('capacitor from a rail to ground'),
])

const wireSchema = z.strictObject({
  number: z.int().min(1),
  made: z.boolean(),
  insulation: z.string().max(30),
  gaugeMm2: z.number().positive(),
  chosen: z.boolean().optional().describe('true: a person chose its insulation'),
})

/** One node, whole: wishes, decisions and the accepted plan. Everything else is derived. Lengths m, times as named. */
export const designSchema = z.strictObject({
  format: z.literal('vivid-node/design'),
  version: z.literal(1),
  id: z.uuid(),
  name: nameSchema,
  slug: slugSchema,
  place: idSchema.nullable().describe('id of its place in the shop; null: nobody has said where it is'),
  board: z.strictObject({ id: z.string().max(100), version: z.int() }),
  parts: z.record(idSchema, partSchema),
  signals: z.record(idSchema, signalSchema),
  added: z.record(idSchema, addedSchema),
  wires: z.record(z.string(), wireSchema).describe('by wire key: the ids of its two ends'),
  locks: z.record(lineKey, z.string().max(100)).describe('line → printed label of the pin it must keep'),
  keptFree: z.record(z.string(), z.literal(true)).describe('printed labels of pins nothing may use'),
  plan: z.strictObject({ pins: z.record(lineKey, z.string().max(100)), basis: z.string().max(100) }),
  sleep: z
    .strictObject({
      everyS: z.number().min(5).max(604_800).describe('time from one waking to the next, s'),
      listenS: z.number().min(0.5).max(60).default(2).describe('listens this long for commands before it sleeps, s'),
    })
    .nullable()
    .default(null),
  rules: z
    .record(idSchema, ruleSchema)
    .default({})
    .describe('what an input does to an output of the same node, with or without a network'),
  guards: z
    .record(idSchema, guardSchema)
    .default({})
    .describe('outputs that may not be on together, or not without something else'),
  groups: z
    .record(idSchema, groupSchema)
    .default({})
    .describe('signals that are one entity together; a signal is in one at most, alone otherwise'),
  costs: z
    .record(z.string(), z.number().min(0).max(100_000))
    .default({})
    .describe('what one costs here, by id of board or part kind, where it differs from the catalogue'),
  items: z
    .strictObject({ boards: z.array(boardSchema), parts: z.array(partKindSchema) })
    .default({ boards: [], parts: [] })
    .describe('catalogue items it uses that do not ship with the product'),
  boardFeed: z.string().max(50).nullable().default(null).describe('rail that feeds the board in place of USB'),
  link: z.literal('wifi').default('wifi').describe('how it reaches the broker'),
  measured: z
    .record(
      z.string().max(40),
      z.strictObject({
        value: z.number().min(0).max(1e6).describe('A, s, V or Ah, as what it replaces'),
        date: z.iso.date(),
        by: z.string().trim().min(1, 'initials').max(10, 'at most 10 characters'),
      }),
    )
    .default({})
    .describe('what a meter showed on this node, in place of an estimate of its power, by the name of the input'),
  network: z.strictObject({
    ref: z.string().max(100),
    address: z.enum(['name', 'lease', 'fixed']),
    keepAliveS: z.int().min(2).max(600),
    quiet: z.boolean().default(false).describe('says nothing of itself on its console'),
    fixed: fixedAddressSchema.nullable().default(null),
    secure: z.boolean().default(false).describe('reaches the broker through TLS, where board and broker can'),
  }),
})

export type Design = z.infer<typeof designSchema>
export type DesignPart = Design['parts'][string]
export type Signal = Design['signals'][string]
export type Calibration = z.infer<typeof calibrationSchema>
export type AddedComponent = z.infer<typeof addedSchema>
export type LineComponent = Extract<AddedComponent, { line: string }>
/** What an added component belongs to: its line, its rail or its part. */
export function placeOf(c: AddedComponent): string {
  if ('line' in c) return c.line
  if ('rail' in c) return c.rail
  return c.part
}

/** An added component of one type on a line. */
export function addedOn<T extends LineComponent['type']>(
  design: Design,
  line: LineKey,
  type: T,
): { id: string; value: Extract<LineComponent, { type: T }> } | undefined {
  for (const [id, value] of Object.entries(design.added)) {
    if (value.type === type && 'line' in value && value.line === line)
      return { id, value: value as Extract<LineComponent, { type: T }> }
  }
  return undefined
}
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

export interface Identified<T> {
  id: string
  value: T
}

/** Entries of a keyed collection in the order the user gave them. */
export function inOrder<T extends { order: number }>(items: Record<string, T>): Identified<T>[] {
  return Object.entries(items)
    .map(([id, value]) => ({ id, value }))
    .sort((a, b) => a.value.order - b.value.order || a.id.localeCompare(b.id))
}

/**
 * Entries of a collection without an order of its own, by id: stores and networks keep the order of names no better
 * than they like.
 */
export function byId<T>(items: Record<string, T>): Identified<T>[] {
  return Object.keys(items)
    .sort()
    .map((id) => ({ id, value: items[id] as T }))
}

export function emptyDesign(identity: {
  id: string
  name: string
  slug: string
  place: string | null
  board: Design['board']
}): Design {
  return {
    format: 'vivid-node/design',
    version: 1,
    ...identity,
    parts: {},
    signals: {},
    added: {},
    wires: {},
    locks: {},
    keptFree: {},
    plan: { pins: {}, basis: '' },
    sleep: null,
    rules: {},
    guards: {},
    groups: {},
    costs: {},
    items: { boards: [], parts: [] },
    boardFeed: null,
    link: 'wifi',
    measured: {},
    network: { ref: 'house', address: 'lease', keepAliveS: 10, fixed: null, secure: false, quiet: false },
  }
}

import { z } from 'zod'

const id = z.string().regex(/^[a-z0-9-]{1,40}$/)
const named = { id, label: z.string().min(1).max(12) }

const state = z.strictObject({
  name: z.string(),
  level: z.enum(['high', 'low', 'open']).describe('where the part pulls the line in this state'),
  ohm: z.number().positive().describe('through how many ohm'),
})

const output = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('push-pull'),
    from: id.describe('supply terminal whose voltage the high level follows'),
    highMinRatio: z.number(), highMaxRatio: z.number(), lowMaxV: z.number(), maxA: z.number(),
  }),
  z.strictObject({ kind: z.literal('open-drain'), lowMaxV: z.number(), maxA: z.number() }),
])

const line = z.strictObject({
  ...named,
  role: z.literal('line'),
  board: z.enum(['drives', 'reads', 'both']).describe('what the board does with the line'),
  states: z.array(state).min(1),
  hazard: z.boolean().describe('an unwanted level here heats, moves or pumps something'),
  rest: z.strictObject({ level: z.enum(['high', 'low']), ownPullOhm: z.number().positive().nullable() }).optional()
    .describe('the safe level of a driven line, and the pull on the part that holds it'),
  pull: z.enum(['up', 'down']).optional().describe('the pull a bare contact needs'),
  outsidePull: z.strictObject({ level: z.enum(['high', 'low']), ohm: z.number().positive(), reason: z.string() }).optional(),
  output: output.optional(),
})

const terminal = z.discriminatedUnion('role', [
  line,
  z.strictObject({ ...named, role: z.literal('supply'), minV: z.number(), maxV: z.number(), idleA: z.number(), peakA: z.number() }),
  z.strictObject({ ...named, role: z.literal('ground') }),
  z.strictObject({ ...named, role: z.literal('contact') }),
])

const proposal = {
  slug: z.string(), letter: z.string().regex(/^[A-Z]$/), unit: z.string(), decimals: z.int().min(0).max(6), intervalS: z.number(),
}
const channelBase = { id, name: z.string(), lines: z.array(id).min(1), quantity: z.string(), unit: z.string() }

const channel = z.discriminatedUnion('access', [
  z.strictObject({
    ...channelBase, access: z.literal('reading'), driver: z.enum(['ranger', 'onewire']),
    range: z.strictObject({ min: z.number(), max: z.number() }),
    asSold: z.strictObject({ halfWidth: z.number().describe("in the reading's unit"), words: z.string() }),
    proposes: z.strictObject({
      ...proposal, change: z.number(), median: z.int().optional(), averageS: z.number().optional(), geometry: z.literal('level').optional(),
    }),
  }),
  z.strictObject({
    ...channelBase, access: z.literal('output'), driver: z.literal('relay'), activeLevel: z.enum(['high', 'low']),
    proposes: z.strictObject({ ...proposal, longestOnS: z.number() }),
  }),
  z.strictObject({
    ...channelBase, access: z.literal('event'), driver: z.literal('button'), activeLevel: z.enum(['high', 'low']),
    proposes: z.strictObject({ ...proposal, debounceMs: z.number() }),
  }),
])

const setting = z.union([
  z.strictObject({ id: z.string(), label: z.string(), unit: z.string(), default: z.number(), min: z.number(), max: z.number(), why: z.string() }),
  z.strictObject({ id: z.string(), label: z.string(), unit: z.string(), default: z.string(), choices: z.array(z.string()).min(1), why: z.string() }),
])

/** A kind of part: what it is fed with, which lines it has, what it can know or do. SI units, temperatures in °C. */
export const partKindSchema = z.strictObject({
  format: z.literal('vivid-node/part'),
  id, version: z.int().min(1),
  name: z.string(), summary: z.string(),
  finds: z.array(z.string()).describe('words a person would search it by'),
  source: z.string(),
  terminals: z.array(terminal),
  channels: z.array(channel).min(1),
  settings: z.array(setting),
  cautions: z.array(z.strictObject({
    id: z.string(), when: z.strictObject({ setting: z.string(), is: z.string() }), title: z.string(), text: z.string(),
  })),
})

export type PartKind = z.infer<typeof partKindSchema>
export type Terminal = PartKind['terminals'][number]
export type LineTerminal = Extract<Terminal, { role: 'line' }>
export type SupplyTerminal = Extract<Terminal, { role: 'supply' }>
export type Channel = PartKind['channels'][number]
export type PartSetting = PartKind['settings'][number]

export function terminalOf(kind: PartKind, terminalId: string): Terminal | undefined {
  return kind.terminals.find((t) => t.id === terminalId)
}

export function linesOf(kind: PartKind): LineTerminal[] {
  return kind.terminals.filter((t): t is LineTerminal => t.role === 'line')
}

import { z } from 'zod'
import type { Channel } from '../catalog/part'
import { gapMs, longMs, PATTERNS, START_STATES } from './behaviour'
import { idSchema, slugSchema } from './ids'
import { levelsSchema } from '../catalog/levels'
import { familyFiguresSchema } from '../radio/subghz/family'
import { saysSchema } from './says'

interface Facts<T> {
  /** What it is when nobody has said otherwise and the part proposes nothing. */
  usual: T
  /** How people call it. */
  words: string
  unit?: string
  /** From the stored number to one in `unit`. */
  factor?: number
  /** What the part proposes for it. */
  proposed?: (channel: Channel) => unknown
  /** Where it stands in a signal of the node file; what it is there when it is left out, where that differs. */
  file: { path: string; usual?: unknown; schema?: z.ZodType; says: string }
  /** Came after the first designs were written: one without it has the usual value. */
  later?: true
}
export interface ConditioningField<S extends z.ZodType = z.ZodType> extends Facts<z.infer<S>> {
  schema: S
}

const field = <S extends z.ZodType>(schema: S, facts: Facts<z.infer<S>>): ConditioningField<S> => ({ schema, ...facts })

/** What is said on the air, as a board needs it. */
export const saidSchema = z.strictObject({
  family: familyFiguresSchema,
  repeats: z.int().min(2).max(40).describe('frames of a burst'),
  on: z.string().regex(/^[01f]+$/),
  off: z
    .string()
    .regex(/^[01f]+$/)
    .optional()
    .describe('left out: one code, and nothing stays on'),
})

/** The chip's own milliseconds tell before from after for six days. */
export const seconds = z.number().min(0).max(500_000)

/**
 * Everything that happens to a signal between driver and topic, each with all there is to know of it: schema, usual
 * value, unit, words, what a part proposes, and its form in the node file. Nothing else lists them.
 */
export const CONDITIONING = {
  median: field(
    z
      .union([z.literal(1), z.literal(3), z.literal(5), z.literal(7), z.literal(9)])
      .describe('readings in the median, odd'),
    {
      usual: 1,
      words: 'median',
      proposed: (c) => (c.access === 'reading' ? c.proposes.median : undefined),
      file: { path: 'chain.median', schema: z.int().min(1).max(9), says: 'readings in the median, odd' },
    },
  ),
  averageS: field(z.number().min(0).max(3600).describe('time constant of the exponential average, s; 0 is none'), {
    usual: 0,
    words: 'average',
    unit: 's',
    proposed: (c) => (c.access === 'reading' ? c.proposes.averageS : undefined),
    file: { path: 'chain.averageS', says: 'time constant of the exponential average, s' },
  }),
  mountM: field(
    z
      .number()
      .min(0)
      .max(50)
      .nullable()
      .describe('height of the sensor over the empty level, m; null publishes the distance itself'),
    {
      usual: null,
      words: 'mounting height',
      unit: 'mm',
      factor: 1000,
      file: {
        path: 'chain.mountM',
        schema: z.number().min(0).max(50),
        says: 'height over the empty level, m: value = mountM − reading',
      },
    },
  ),
  debounceMs: field(z.number().min(0).max(500), {
    usual: 0,
    words: 'debounce',
    unit: 'ms',
    proposed: (c) => ('debounceMs' in c.proposes ? c.proposes.debounceMs : undefined),
    file: { path: 'debounceMs', says: 'a level counts when it has been stable this long, ms' },
  }),
  longestOnS: field(z.number().min(0).max(86400).describe('output switches itself off after this, s; 0 is never'), {
    usual: 0,
    words: 'longest on',
    unit: 's',
    proposed: (c) => ('longestOnS' in c.proposes ? c.proposes.longestOnS : undefined),
    file: { path: 'longestOnS', schema: seconds, says: 'switches itself off after this and says so, s; 0 is never' },
  }),
  atStart: field(z.enum(START_STATES).describe('what an output does at power-up, before any command'), {
    usual: 'off',
    words: 'at power-up',
    file: {
      path: 'atStart',
      says: 'what the output does at power-up, before any command: off, on, last as it was, follow as its input is, opposite as it is not',
    },
  }),
  follows: field(idSchema.nullable().describe('input whose state an output takes at power-up'), {
    usual: null,
    words: 'follows',
    later: true,
    file: {
      path: 'follows',
      schema: slugSchema,
      says: 'input a power-up state of “follow” or “opposite” is taken from',
    },
  }),
  pulseS: field(z.number().min(0).max(3600).describe('“on” is a pulse of this length, s; 0 stays on'), {
    usual: 0,
    words: 'pulse',
    unit: 's',
    later: true,
    file: { path: 'pulseS', schema: seconds, says: 'true is a pulse of this length, s; 0 stays on' },
  }),
  holdS: field(
    z
      .number()
      .min(0)
      .max(86400)
      .nullable()
      .describe('“gone” counts only after this long of it, s; null as the part proposes'),
    {
      usual: null,
      words: 'hold',
      unit: 's',
      later: true,
      file: { path: 'holdS', usual: 0, schema: seconds, says: '“off” counts only after this long of it, s' },
    },
  ),
  patterns: field(
    z.array(z.enum(PATTERNS)).min(1, 'at least one pattern').max(PATTERNS.length).describe('presses that are told'),
    {
      usual: ['single'],
      words: 'presses',
      later: true,
      file: { path: 'presses.used', says: 'patterns that are told; what is not used delays nothing' },
    },
  ),
  gapMs: field(gapMs, { usual: 300, words: 'gap', unit: 'ms', later: true, file: { path: 'presses.gapMs', says: '' } }),
  longMs: field(longMs, {
    usual: 600,
    words: 'long press',
    unit: 'ms',
    later: true,
    file: { path: 'presses.longMs', says: '' },
  }),
  levels: field(
    levelsSchema.nullable().describe('of a state that is made of a reading: its words and what parts them'),
    {
      usual: null,
      words: 'words',
      later: true,
      file: { path: 'levels', schema: levelsSchema, says: 'words and what parts them, in the reading’s own unit' },
    },
  ),
  says: field(
    saysSchema.nullable().describe('of an output that is switched by radio: what is said on the air for it'),
    {
      usual: null,
      words: 'codes',
      later: true,
      file: { path: 'says', schema: saidSchema, says: 'what is said on the air' },
    },
  ),
} as const

type Fields = typeof CONDITIONING
export type ConditioningKey = keyof Fields
export type Conditioning = { [K in ConditioningKey]: z.infer<Fields[K]['schema']> }

const isKey = (key: string): key is ConditioningKey => Object.hasOwn(CONDITIONING, key)
export const CONDITIONING_KEYS: readonly ConditioningKey[] = Object.keys(CONDITIONING).filter(isKey)

export const conditioningField = (key: ConditioningKey): ConditioningField => CONDITIONING[key]

type Shape = { [K in ConditioningKey]: Fields[K]['schema'] }
/** The schemas alone, by key. */
function shape(of: (field: ConditioningField) => z.ZodType): Shape {
  // What a list of entries is made into has the keys of the table and the schemas that stand there.
  return Object.fromEntries(CONDITIONING_KEYS.map((key) => [key, of(CONDITIONING[key])])) as unknown as Shape
}

/** All of it, as a design keeps it. */
export const conditioningSchema = z.strictObject(
  shape((f) => (f.later ? f.schema.default(() => structuredClone(f.usual)) : f.schema)),
)

/** Some of it, as an edit sets it: what is not named stays as it is. */
export const conditioningChangeSchema = z.strictObject(shape((f) => f.schema)).partial()

/** What a signal of this channel begins with: as the part proposes, else as usual. */
export function proposedConditioning(channel: Channel): Conditioning {
  return conditioningSchema.parse(
    Object.fromEntries(
      CONDITIONING_KEYS.map((key) => {
        const f = conditioningField(key)
        const wanted = f.schema.safeParse(f.proposed?.(channel))
        return [key, wanted.success && wanted.data !== undefined ? wanted.data : f.usual]
      }),
    ),
  )
}

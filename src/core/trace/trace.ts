import { z } from 'zod'
import { nameSchema } from '../model/design'

export const MOST_SAMPLES = 1_000_000

/** A span of a trace with a word for what was true then. */
export const markSchema = z
  .strictObject({
    from: z.number().min(0).max(1e7).describe('s from the first sample'),
    to: z.number().min(0).max(1e7),
    word: z.string().trim().min(1, 'a word for what was true').max(24, 'a word of at most 24 characters'),
  })
  .refine((m) => m.to > m.from, 'a mark ends after it begins')
export type Mark = z.infer<typeof markSchema>
/** What is marked with this word is left out of every reckoning. */
export const UNSURE = 'unsure'

/** A kept recording of one signal, raw, in the reading's unit. */
export const traceSchema = z
  .strictObject({
    name: nameSchema,
    at: z.iso.datetime().describe('of the first sample'),
    unit: z.string().max(100),
    source: z.enum(['close', 'readings', 'import']),
    s: z
      .array(z.number().min(0).max(1e7))
      .min(2, 'at least two samples')
      .max(MOST_SAMPLES, 'at most a million samples'),
    value: z.array(z.number().nullable()).describe('null: nothing was known'),
    marks: z.array(markSchema).max(500),
  })
  .refine((t) => t.s.length === t.value.length, 'as many values as times')
  .refine((t) => t.s.every((v, i) => i === 0 || v >= (t.s[i - 1] ?? v)), 'times that rise')
export type Trace = z.infer<typeof traceSchema>

/** What is left of a trace between two moments, its beginning the new zero. Null where fewer than two samples are. */
export function trimmed(trace: Trace, from: number, to: number): Trace | null {
  const first = trace.s.findIndex((v) => v >= from)
  const end = trace.s.findIndex((v) => v > to)
  const [a, b] = [first < 0 ? trace.s.length : first, end < 0 ? trace.s.length : end]
  if (b - a < 2) return null
  const zero = trace.s[a] ?? 0
  return {
    ...trace,
    at: new Date(Date.parse(trace.at) + zero * 1000).toISOString(),
    s: trace.s.slice(a, b).map((v) => v - zero),
    value: trace.value.slice(a, b),
    marks: trace.marks.flatMap((m) => {
      const span = { ...m, from: Math.max(0, m.from - zero), to: Math.min((trace.s[b - 1] ?? 0) - zero, m.to - zero) }
      return span.to > span.from ? [span] : []
    }),
  }
}

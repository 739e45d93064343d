import { z } from 'zod'

const finite = z.number().min(-1e30).max(1e30)
const reading = z.number().min(-1e9).max(1e9)

/**
 * A calibration that is more than a straight line, in the reading's unit. Everything is written around the middle of
 * where it was made, so that a board with single precision computes the same.
 */
export const curveSchema = z
  .discriminatedUnion('kind', [
    z
      .strictObject({
        kind: z.literal('quadratic'),
        centre: reading,
        scale: z.number().positive().max(1e9),
        c0: finite,
        c1: finite,
        c2: finite,
      })
      .describe('c0 + u · (c1 + u · c2), u = (reading − centre) / scale'),
    z
      .strictObject({
        kind: z.literal('power'),
        at: z.number().positive().max(1e9),
        a: finite,
        b: z.number().min(-20).max(20),
      })
      .describe('a · (reading / at)^b, for readings above zero'),
    z
      .strictObject({ kind: z.literal('exponential'), at: reading, a: finite, b: finite })
      .describe('a · e^(b · (reading − at))'),
    z
      .strictObject({
        kind: z.literal('thermistor'),
        ohm25: z.number().positive().max(1e8),
        betaK: z.number().positive().max(20_000),
        a: finite,
        b: finite,
        c: finite,
      })
      .describe(
        '1 / (a + b · u + c · u³) − 273.15, u the logarithm of the resistance in Ω that reading comes from by its nominal values',
      ),
    z
      .strictObject({
        kind: z.literal('table'),
        x: z.array(reading).min(2).max(24),
        y: z.array(reading).min(2).max(24),
        slope: z.array(finite).min(2).max(24),
      })
      .describe('cubic pieces between points, each monotone; straight beyond them'),
  ])
  .refine(
    (c) =>
      c.kind !== 'table' ||
      (c.x.length === c.y.length &&
        c.x.length === c.slope.length &&
        c.x.every((v, i) => i === 0 || v > (c.x[i - 1] ?? v))),
    'a table of as many corrected values and slopes as readings, readings rising',
  )

export const calibrationSchema = z.strictObject({
  recordId: z.string().uuid(),
  gain: z
    .number()
    .min(-1000)
    .max(1000)
    .refine((g) => Math.abs(g) >= 0.001, 'a gain of at least a thousandth, of either sign'),
  offset: z.number().min(-1e9).max(1e9).describe("in the reading's unit; what suits the quantity is asked of the part"),
  curve: curveSchema.nullable().default(null).describe('in place of gain and offset, which are then 1 and 0'),
  span: z
    .strictObject({ min: reading, max: reading })
    .nullable()
    .default(null)
    .describe("readings it was made with, lowest and highest, in the reading's unit; null where that was not kept"),
  date: z.iso.date(),
  points: z.int().min(1).max(200),
  expires: z.iso.date().nullable().default(null).describe('when it should be checked again'),
})

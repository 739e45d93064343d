import { z } from 'zod'
import { calibrationSchema } from './calibrationSchema'
import { calibratedReading } from './fit'
import { MODEL_NAMES } from './models'
import type { Pair } from './pair'

const DAY_MS = 86_400_000

/** A calibration as it is kept, or a check that it still holds; in the reading's unit. */
export const keptCalibrationSchema = z.object({
  id: z.string(),
  at: z.iso.datetime(),
  initials: z.string(),
  reference: z.string(),
  points: z.number(),
  made: z
    .object({
      model: z.enum(MODEL_NAMES),
      ...calibrationSchema.pick({ gain: true, offset: true, curve: true, span: true }).shape,
      u95: z.number().nullable().describe('half width of the 95 % band in the middle of the span; null: no estimate'),
    })
    .nullable()
    .describe('null for a check'),
  check: z.object({ worst: z.number(), allowed: z.number().nullable(), holds: z.boolean().nullable() }).nullable(),
})
export type KeptCalibration = z.infer<typeof keptCalibrationSchema>

/** Months a calibration of a quantity is good for where nobody knows the part better: how fast such parts drift. */
const MONTHS: Readonly<Record<string, number>> = {
  temperature: 24,
  humidity: 12,
  pressure: 12,
  moisture: 6,
  concentration: 6,
  acidity: 1,
  length: 24,
  light: 24,
  illuminance: 24,
}
export const monthsFor = (quantity: string): number => MONTHS[quantity] ?? 12

/** The day so many months on, the last of its month where that has fewer days. ISO 8601 days in and out. */
export function monthsOn(day: string, months: number): string {
  const [y = 0, m = 1, d = 1] = day.split('-').map(Number)
  const last = new Date(Date.UTC(y, m - 1 + months + 1, 0)).getUTCDate()
  return new Date(Date.UTC(y, m - 1 + months, Math.min(d, last))).toISOString().slice(0, 10)
}

export interface Drift {
  from: string
  to: string
  days: number
  /** Reading at which both were made, and by how much the correction there has changed, in the reading's unit. */
  at: number
  shift: number
  /** Null where less than a week lies between. */
  perYear: number | null
  /** More than both calibrations' uncertainties explain; null where one has no estimate. */
  real: boolean | null
}

/** From each calibration of a part to the next: how its correction moved where both know it. Oldest first, checks left out. */
export function drifts(kept: readonly KeptCalibration[]): Drift[] {
  const made = kept
    .flatMap((k) => (k.made ? [{ at: k.at, ...k.made }] : []))
    .sort((a, b) => Date.parse(a.at) - Date.parse(b.at))
  return made.slice(1).map((now, i): Drift => {
    const before = made[i] ?? now
    const [low, high] = [
      Math.max(before.span?.min ?? -Infinity, now.span?.min ?? -Infinity),
      Math.min(before.span?.max ?? Infinity, now.span?.max ?? Infinity),
    ]
    // Where they do not overlap the new one's own middle is as good as any.
    const at = low <= high && Number.isFinite(low + high) ? (low + high) / 2 : middle(now.span)
    const shift = calibratedReading(now, at) - calibratedReading(before, at)
    const days = (Date.parse(now.at) - Date.parse(before.at)) / DAY_MS
    const both = now.u95 === null || before.u95 === null ? null : Math.hypot(now.u95, before.u95)
    return {
      from: before.at,
      to: now.at,
      days,
      at,
      shift,
      perYear: days < 7 ? null : (shift * 365.25) / days,
      real: both === null ? null : Math.abs(shift) > both,
    }
  })
}
const middle = (span: { min: number; max: number } | null): number => (span ? (span.min + span.max) / 2 : 0)

export interface Checked {
  /** reference − corrected, of each pair. */
  errors: number[]
  worst: number
  /** What the pair with the worst error may be off by, 95 %; null: neither calibration nor reference says how well it is known. */
  allowed: number | null
  holds: boolean | null
}

/**
 * Whether a calibration still holds, by new pairs: each error against what calibration and reference explain together,
 * both at 95 %.
 * @param u95 of the calibration, null where it has no estimate; `common` the standard uncertainty all references share
 */
export function checkAgainst(
  calibration: Parameters<typeof calibratedReading>[0],
  u95: number | null,
  pairs: readonly Pair[],
  common: number,
): Checked {
  const each = pairs.map((p) => {
    const reference = 2 * Math.hypot(common, p.u ?? 0, p.scatter ?? 0)
    const allowed = u95 === null && reference === 0 ? null : Math.hypot(u95 ?? 0, reference)
    return { error: p.reference - calibratedReading(calibration, p.raw), allowed }
  })
  const share = ({ error, allowed }: (typeof each)[number]) => Math.abs(error) / (allowed || Number.MIN_VALUE)
  const worst = each.reduce((a, b) => (share(b) > share(a) ? b : a), each[0] ?? { error: 0, allowed: null })
  return {
    errors: each.map((e) => e.error),
    worst: worst.error,
    allowed: worst.allowed,
    holds: worst.allowed === null ? null : Math.abs(worst.error) <= worst.allowed,
  }
}

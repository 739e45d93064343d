import { type Curve, curveAt } from './curve'
import type { Pair } from './pair'
import { leastSquares } from './leastSquares'
import { levenbergMarquardt } from './levenbergMarquardt'
import { type Frame, type Model, type ModelName, MODELS, type Nominal } from './models'
import { studentT } from './studentT'

export interface FitOptions {
  /** Standard uncertainty that all references have in common, like an instrument's class: no number of pairs makes it less. */
  common?: number
  /** A thermistor's values as sold; models by resistance need them. */
  nominal?: Nominal | null
  /** Readings closer than this cannot tell a gain. */
  closest?: number
}

export interface Parameter {
  name: string
  value: number
  /** Standard error; null with no degree of freedom left. */
  error: number | null
}

/** A calibration with what there is to know about it. */
export interface Fit {
  model: ModelName
  /** As the design carries it: a line as gain and offset, anything else as a curve. */
  gain: number
  offset: number
  curve: Curve | null
  points: number
  span: { min: number; max: number }
  parameters: Parameter[]
  /** reference − corrected, per pair. */
  residuals: number[]
  /** Residual by its own standard deviation when this pair is left out; null where that is not defined. */
  studentised: (number | null)[]
  /** Pairs that do not belong: further out than one in twenty such sets would have by chance. */
  strangers: number[]
  /** Degrees of freedom left for an estimate of error; 0 leaves none. */
  freedom: number
  /** Standard deviation of a pair about the curve; null when nothing is left to estimate it from. */
  residual: number | null
  /** Root mean square of what each pair is missed by when the others make the calibration; null where not defined. */
  leftOut: number | null
  corrected: (raw: number) => number
  /** Half width of the 95 % band of a corrected reading, references' own part included; null with no estimate. */
  expanded95: (raw: number) => number | null
}

export type Fitted = ({ kind: 'fit' } & Fit) | { kind: 'none'; reason: string }

/**
 * A model through the pairs, by weighted least squares: weights from each pair's own uncertainty where every pair states
 * one, equal otherwise. The band of a corrected reading follows the GUM: what the fit says by its covariance, the
 * scatter of one reading, and what all references have in common, put together with the effective degrees of freedom of
 * Welch and Satterthwaite. What is too little or makes no sense is refused in words.
 */
export function fit(name: ModelName, pairs: readonly Pair[], options: FitOptions = {}): Fitted {
  const made = fitOnce(name, pairs, options)
  return made.kind === 'none' ? made : { ...made, leftOut: leftOut(name, pairs, options) }
}

function fitOnce(name: ModelName, pairs: readonly Pair[], options: FitOptions): Fitted {
  const model: Model = MODELS[name]
  const refused = refusal(model, pairs, options)
  if (refused !== null) return { kind: 'none', reason: refused }
  const weights = weightsOf(pairs)
  const solved = solve(model, pairs, weights, options)
  if (typeof solved === 'string') return { kind: 'none', reason: solved }
  const { p, inverse, at } = solved
  const raws = pairs.map((q) => q.raw)
  const span = { min: Math.min(...raws), max: Math.max(...raws) }
  const corrected = (raw: number) => at(p, raw)
  const residuals = pairs.map((q) => q.reference - corrected(q.raw))
  if (!residuals.every(Number.isFinite)) return { kind: 'none', reason: 'the curve breaks down between these pairs' }
  const interpolates = model.exact === true
  const freedom = interpolates ? 0 : pairs.length - p.length
  const sum = residuals.reduce((s, r, i) => s + (weights[i] ?? 1) * r * r, 0)
  const { variance, known } = varianceOf(pairs, weights, sum, freedom)
  const spread = (raw: number): number => {
    const g = solved.gradient(raw)
    return g.reduce((s, gi, i) => s + g.reduce((t, gj, j) => t + gi * gj * (inverse[i]?.[j] ?? 0), 0), 0)
  }
  const made = model.carried(p, solved.frame)
  const common = options.common ?? 0
  const studentised = studentise(pairs, weights, residuals, { freedom, sum, spread })
  // One in twenty sets has a pair so far out by chance (Bonferroni).
  const limit = freedom > 1 ? studentT(1 - 0.05 / pairs.length, freedom - 1) : Infinity
  return {
    kind: 'fit',
    model: name,
    gain: 1,
    offset: 0,
    curve: null,
    ...made,
    points: pairs.length,
    span,
    parameters: model.named(p, inverse, solved.frame).map(({ value, factor, ...named }) => ({
      name: named.name,
      value,
      error: variance === null || factor === null ? null : Math.sqrt(variance * factor),
    })),
    residuals,
    studentised,
    strangers: studentised.flatMap((s, i) => (s !== null && Math.abs(s) > limit ? [i] : [])),
    freedom,
    residual: variance === null ? null : Math.sqrt(variance),
    leftOut: null,
    corrected,
    expanded95: (raw) => {
      if (variance === null) return null
      const own = variance * (1 + spread(raw))
      const all = own + common * common
      if (all === 0) return 0
      return studentT(0.95, known ? Infinity : Math.max(1, (all * all) / ((own * own) / freedom))) * Math.sqrt(all)
    },
  }
}

function refusal(model: Model, pairs: readonly Pair[], { nominal, closest = 1e-9 }: FitOptions): string | null {
  if (pairs.length === 0) return 'no pair yet'
  if (pairs.some((q) => ![q.raw, q.reference, q.u ?? 0, q.scatter ?? 0].every(Number.isFinite)))
    return 'a value is not a number'
  if (pairs.some((q) => (q.u ?? 0) < 0 || (q.scatter ?? 0) < 0)) return 'an uncertainty is below zero'
  const apart = distinct(
    pairs.map((q) => q.raw),
    closest,
  )
  if (apart < model.least)
    return pairs.length < model.least
      ? `${model.least} pairs are the least for it`
      : `the pairs are too close together: it needs ${model.least} different readings`
  if (model.most !== undefined && pairs.length > model.most) return `at most ${model.most} pairs`
  return model.refuses?.(pairs, nominal ?? null) ?? null
}

/** How many readings stand apart by at least `closest`. */
function distinct(values: readonly number[], closest: number): number {
  let n = 0
  let last = -Infinity
  for (const v of [...values].sort((a, b) => a - b))
    if (v - last >= closest) {
      n += 1
      last = v
    }
  return n
}

/** Weights with a mean of one; equal ones unless every pair states how well it is known. */
function weightsOf(pairs: readonly Pair[]): number[] {
  const variances = pairs.map((q) => (q.u ?? 0) ** 2 + (q.scatter ?? 0) ** 2)
  if (variances.some((v) => !(v > 0))) return pairs.map(() => 1)
  const least = Math.min(...variances)
  const raw = variances.map((v) => least / v)
  const mean = raw.reduce((a, b) => a + b, 0) / raw.length
  return raw.map((w) => w / mean)
}

/**
 * Variance of a pair of weight one. Where every reference states its uncertainty that stands, with no end of degrees of
 * freedom, unless what is left over contradicts it (χ² at 95 %, Wilson and Hilferty); otherwise what is left over says
 * it. Null where there is neither.
 */
function varianceOf(
  pairs: readonly Pair[],
  weights: readonly number[],
  sum: number,
  freedom: number,
): { variance: number | null; known: boolean } {
  const first = pairs[0]
  const stated =
    first && pairs.every((q) => (q.u ?? 0) > 0)
      ? (weights[0] ?? 1) * ((first.u ?? 0) ** 2 + (first.scatter ?? 0) ** 2)
      : null
  const found = freedom > 0 ? sum / freedom : null
  const limit = freedom > 0 ? (1 - 2 / (9 * freedom) + 1.645 * Math.sqrt(2 / (9 * freedom))) ** 3 : Infinity
  if (stated !== null && (found === null || found < limit * stated)) return { variance: stated, known: true }
  return { variance: found, known: false }
}

interface Solved {
  p: number[]
  inverse: number[][]
  frame: Frame
  at: (p: readonly number[], raw: number) => number
  gradient: (raw: number) => number[]
}

function solve(
  model: Model,
  pairs: readonly Pair[],
  weights: readonly number[],
  { nominal }: FitOptions,
): Solved | string {
  const frame = model.frame(pairs, nominal ?? null)
  const at = (p: readonly number[], raw: number) => model.at(p, raw, frame)
  const start = model.start(pairs, frame)
  if (start === null) return 'these pairs do not suit it'
  const root = weights.map(Math.sqrt)
  if (model.exact === true) {
    const nothing = start.map(() => start.map(() => 0))
    return { p: start, inverse: nothing, frame, at, gradient: () => start.map(() => 0) }
  }
  const rows = (p: readonly number[]) =>
    pairs.map((q, i) => model.gradient(p, q.raw, frame).map((g) => g * (root[i] ?? 1)))
  if (model.linear === true) {
    const right = pairs.map((q, i) => (root[i] ?? 1) * (q.reference - (model.fixed?.(q.raw) ?? 0)))
    const whole = leastSquares(rows(start), right)
    if (whole === null) return 'its coefficients cannot be told apart from these pairs'
    return { p: whole.x, inverse: whole.inverse, frame, at, gradient: (raw) => model.gradient(whole.x, raw, frame) }
  }
  const found = levenbergMarquardt(
    { residuals: (p) => pairs.map((q, i) => (root[i] ?? 1) * (q.reference - at(p, q.raw))), jacobian: rows },
    start,
  )
  if (found === null) return 'no such curve comes to rest on these pairs'
  return { p: found.p, inverse: found.inverse, frame, at, gradient: (raw) => model.gradient(found.p, raw, frame) }
}

/** Externally studentised residuals (Belsley, Kuh and Welsch, Regression Diagnostics, 2.1). */
function studentise(
  pairs: readonly Pair[],
  weights: readonly number[],
  residuals: readonly number[],
  { freedom, sum, spread }: { freedom: number; sum: number; spread: (raw: number) => number },
): (number | null)[] {
  return pairs.map((q, i) => {
    const w = weights[i] ?? 1
    const r = residuals[i] ?? 0
    const free = 1 - w * spread(q.raw)
    if (freedom < 2 || !(free > 1e-9)) return null
    const without = (sum - (w * r * r) / free) / (freedom - 1)
    return without > 0 ? (r * Math.sqrt(w)) / Math.sqrt(without * free) : null
  })
}

/** Each pair in turn foretold by the others, root mean square. */
function leftOut(name: ModelName, pairs: readonly Pair[], options: FitOptions): number | null {
  const model: Model = MODELS[name]
  const raws = pairs.map((q) => q.raw)
  const [low, high] = [Math.min(...raws), Math.max(...raws)]
  // An end of a table lies between none of its other points.
  const asked = model.exact ? pairs.filter((q) => q.raw > low && q.raw < high) : pairs
  if (pairs.length <= model.least || asked.length === 0) return null
  let sum = 0
  for (const left of asked) {
    const made = fitOnce(
      name,
      pairs.filter((q) => q !== left),
      options,
    )
    if (made.kind === 'none') return null
    sum += (left.reference - made.corrected(left.raw)) ** 2
  }
  return Number.isFinite(sum) ? Math.sqrt(sum / asked.length) : null
}

/** A reading as a calibration of the design corrects it. */
export const calibratedReading = (
  { gain, offset, curve }: { gain: number; offset: number; curve: Curve | null },
  reading: number,
): number => (curve === null ? reading * gain + offset : curveAt(curve, reading))

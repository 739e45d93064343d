import { T95 } from './studentT'

export interface Pair {
  raw: number
  reference: number
}

export type LineFit =
  | { kind: 'none'; reason: string }
  | {
      kind: 'line'
      gain: number
      offset: number
      points: number
      /** reference − corrected, per pair, in the reading's unit. */
      residuals: number[]
      /** Degrees of freedom left for an estimate of error; 0 leaves none. */
      freedom: number
      /** Null when no degree of freedom is left: then nothing is known about the error. */
      error: { residual: number; gain: number; offset: number; expanded95: (raw: number) => number } | null
      span: { min: number; max: number }
    }

/**
 * Straight line reference = gain · raw + offset. One pair gives the offset alone (gain 1), two give both exactly,
 * more give least squares with standard errors and the 95 % half-width of a corrected reading by Student's t.
 * Refuses pairs whose raw values are so close that the gain would be noise.
 */
export function fitLine(pairs: readonly Pair[], closest = 1e-9): LineFit {
  const n = pairs.length
  const first = pairs[0]
  if (!first) return { kind: 'none', reason: 'no pair yet' }
  if (pairs.some((p) => !Number.isFinite(p.raw) || !Number.isFinite(p.reference)))
    return { kind: 'none', reason: 'a value is not a number' }
  const raws = pairs.map((p) => p.raw)
  const span = { min: Math.min(...raws), max: Math.max(...raws) }
  if (n === 1)
    return {
      kind: 'line',
      gain: 1,
      offset: first.reference - first.raw,
      points: 1,
      residuals: [0],
      freedom: 0,
      error: null,
      span,
    }
  if (span.max - span.min < closest) return { kind: 'none', reason: 'the pairs are too close together to tell a gain' }

  const meanX = mean(raws)
  const meanY = mean(pairs.map((p) => p.reference))
  const sxx = sum(raws.map((x) => (x - meanX) ** 2))
  const gain = sum(pairs.map((p) => (p.raw - meanX) * (p.reference - meanY))) / sxx
  const offset = meanY - gain * meanX
  const residuals = pairs.map((p) => p.reference - (gain * p.raw + offset))
  const freedom = n - 2
  if (freedom === 0) return { kind: 'line', gain, offset, points: n, residuals, freedom, error: null, span }
  const residual = Math.sqrt(sum(residuals.map((r) => r * r)) / freedom)
  const t = T95(freedom)
  return {
    kind: 'line',
    gain,
    offset,
    points: n,
    residuals,
    freedom,
    span,
    error: {
      residual,
      gain: residual / Math.sqrt(sxx),
      offset: residual * Math.sqrt(1 / n + meanX ** 2 / sxx),
      expanded95: (raw) => t * residual * Math.sqrt(1 + 1 / n + (raw - meanX) ** 2 / sxx),
    },
  }
}

const sum = (values: number[]) => values.reduce((a, b) => a + b, 0)
const mean = (values: number[]) => sum(values) / values.length

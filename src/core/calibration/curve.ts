import { z } from 'zod'
import { curveSchema } from './calibrationSchema'

export { curveSchema } from './calibrationSchema'
/** What leads from a reading to a corrected one, as design and node file carry it. */
export type Curve = z.infer<typeof curveSchema>

const ZERO_C = 273.15
const AT_25_K = 298.15

/**
 * A reading corrected by a curve, in its own unit; not finite where the curve says nothing there. The board computes
 * the same in the same order.
 */
export function curveAt(curve: Curve, x: number): number {
  switch (curve.kind) {
    case 'quadratic': {
      const u = (x - curve.centre) / curve.scale
      return curve.c0 + u * (curve.c1 + u * curve.c2)
    }
    case 'power':
      return x > 0 ? curve.a * Math.pow(x / curve.at, curve.b) : NaN
    case 'exponential':
      return curve.a * Math.exp(curve.b * (x - curve.at))
    case 'thermistor': {
      const u = logOhm(curve, x)
      return 1 / (curve.a + curve.b * u + curve.c * u * u * u) - ZERO_C
    }
    case 'table':
      return tableAt(curve, x)
  }
}

/**
 * ln of the resistance, in Ω, of a thermistor that reads `celsius` by its nominal values: what a curve by β or by
 * Steinhart and Hart starts from.
 */
export const logOhm = ({ ohm25, betaK }: { ohm25: number; betaK: number }, celsius: number): number =>
  Math.log(ohm25) + betaK * (1 / (celsius + ZERO_C) - 1 / AT_25_K)

/** Cubic Hermite pieces between the points; beyond them the straight line of the last slope. */
function tableAt({ x, y, slope }: Extract<Curve, { kind: 'table' }>, at: number): number {
  const last = x.length - 1
  const of = (list: readonly number[], i: number) => list[i] ?? 0
  if (at <= of(x, 0)) return of(y, 0) + of(slope, 0) * (at - of(x, 0))
  if (at >= of(x, last)) return of(y, last) + of(slope, last) * (at - of(x, last))
  let i = 0
  while (at > of(x, i + 1)) i += 1
  const h = of(x, i + 1) - of(x, i)
  const t = (at - of(x, i)) / h
  const s = 1 - t
  return (
    s * s * ((1 + 2 * t) * of(y, i) + t * h * of(slope, i)) +
    t * t * ((3 - 2 * t) * of(y, i + 1) - s * h * of(slope, i + 1))
  )
}

/**
 * Slopes at the points of a table that keep every piece monotone (Fritsch and Butland's weighted harmonic mean inside,
 * three-point at the ends; SIAM J. Sci. Stat. Comput. 5, 1984). `x` rises.
 */
export function monotoneSlopes(x: readonly number[], y: readonly number[]): number[] {
  const of = (list: readonly number[], i: number) => list[i] ?? 0
  const h = x.slice(1).map((v, i) => v - of(x, i))
  const d = h.map((w, i) => (of(y, i + 1) - of(y, i)) / w)
  if (d.length === 1) return [of(d, 0), of(d, 0)]
  const end = (h0: number, h1: number, d0: number, d1: number): number => {
    const m = ((2 * h0 + h1) * d0 - h0 * d1) / (h0 + h1)
    if (Math.sign(m) !== Math.sign(d0)) return 0
    return Math.sign(d0) !== Math.sign(d1) && Math.abs(m) > 3 * Math.abs(d0) ? 3 * d0 : m
  }
  return x.map((_, i) => {
    if (i === 0) return end(of(h, 0), of(h, 1), of(d, 0), of(d, 1))
    if (i === x.length - 1) return end(of(h, i - 1), of(h, i - 2), of(d, i - 1), of(d, i - 2))
    const [a, b] = [of(d, i - 1), of(d, i)]
    if (a * b <= 0) return 0
    const w1 = 2 * of(h, i) + of(h, i - 1)
    const w2 = of(h, i) + 2 * of(h, i - 1)
    return (w1 + w2) / (w1 / a + w2 / b)
  })
}

const TITLE: Record<Curve['kind'], string> = {
  quadratic: 'second order',
  power: 'power law',
  exponential: 'exponential',
  thermistor: 'thermistor',
  table: 'table',
}

/** A curve in a few words: its kind, and what it makes of a reading in the middle of it. */
export function curveWords(curve: Curve): string {
  const shown = (v: number) => Number(v.toPrecision(5)).toString()
  const x = middleOf(curve)
  return `${TITLE[curve.kind]}, ${shown(x)} → ${shown(curveAt(curve, x))}`
}

function middleOf(curve: Curve): number {
  if (curve.kind === 'quadratic') return curve.centre
  if (curve.kind === 'table') return curve.x[curve.x.length >> 1] ?? 0
  return curve.kind === 'thermistor' ? 25 : curve.at
}

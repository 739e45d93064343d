import { T95 } from '../calibration/studentT'
import type { Cycle } from './cycle'
import { shareLeft } from './chemistries'
import { random } from './draws'
import { likelyOf, meanA } from './life'
import { spread, type Spread, triangular, width } from './spread'

/** What a node said of its cell at one moment, at rest. */
export interface SupplyPoint {
  atS: number
  volts: number
  tempC?: number | undefined
}

export interface InService {
  points: number
  days: number
  /** Drain as it is, and half of its 95 % range, A. */
  drainA: number
  errorA: number
  /** Drain by the design, its own discharge in it, A. */
  designedA: number
  /** Share of the cell's charge that is left now. */
  left: number
  /** When it was last charged or changed among these points, s UTC; null where it was not. */
  chargedS: number | null
  /** When it is to be changed or charged, s UTC: earliest and latest; null where the drain is not told from none. */
  emptyS: { from: number; to: number } | null
  /** Why it drains otherwise than designed, the likeliest first. */
  whys: string[]
}

const DAY_S = 86_400
/** Below and above this the curve says little about the charge. */
const ENDS = { low: 0.03, high: 0.97 }
const LEAST = 5
const SEED = 20261127

/** A reading of the cell through two resistors and a converter may be off by this, as a factor, while it is as sold. */
const AS_SOLD = spread(0.985, 1, 1.015)
/** After a comparison with a meter. */
export const COMPARED = spread(0.998, 1, 1.002)
const DRAWS = 800
/** Lines worked out over the range of the factor. */
const GRID = 12

/**
 * The drain of a node in service from the voltages it reported: share of charge by the curve of its cell, a straight line
 * over time by least squares, with what the temperature does taken out where temperatures are known. Its range holds the
 * scatter of the points, what the cell may really hold, and `gain`, by which all readings together may be off: all drawn
 * with a fixed seed, 95 % of it. Null where the points say nothing.
 */
export function inService(points: readonly SupplyPoint[], cycle: Cycle, gain: Spread = AS_SOLD): InService | null {
  const { facts, series } = cycle.cell
  const sorted = [...points].sort((a, b) => a.atS - b.atS)
  const since = sinceCharged(sorted, (volts) => shareLeft(facts.curve, volts / series))
  const fitted = (factor: number) => lineOf(since, (volts) => shareLeft(facts.curve, (volts * factor) / series))
  const middle = fitted(gain.likely)
  if (!middle) return null
  // Over a factor of a few per cent the line moves smoothly: a few of them, and between them straight.
  const lines = Array.from({ length: GRID + 1 }, (_, i) => fitted(gain.low + (i / GRID) * width(gain)) ?? middle)
  const next = random(SEED)
  const spreads = cycle.inputs.map((i) => i.value)
  const holds = cycle.inputs.findIndex((i) => i.id === 'capacityAh')
  const drains: number[] = []
  const ends: number[] = []
  for (let n = 0; n < DRAWS; n++) {
    const x = spreads.map((s) => (s.high > s.low ? triangular(s, next()) : s.likely))
    const line = between(lines, width(gain) > 0 ? (triangular(gain, next()) - gain.low) / width(gain) : 0)
    const rate = line.perDay + line.error * normal(next)
    drains.push((rate * (x[holds] ?? cycle.cell.capacityAh)) / 24)
    ends.push(rate > 0 ? line.lastS + (Math.max(0, line.left - cycle.stopShare(x)) / rate) * DAY_S : Infinity)
  }
  const x = likelyOf(cycle)
  const [from, to] = ends95(drains)
  const [soon, late] = ends95(ends)
  const drainA = (middle.perDay * (x[holds] ?? cycle.cell.capacityAh)) / 24
  const designedA = meanA(cycle, x) + cycle.selfA(x)
  return {
    points: middle.points,
    days: middle.days,
    drainA,
    errorA: Math.max(to - drainA, drainA - from),
    designedA,
    left: Math.min(1, Math.max(0, middle.left)),
    chargedS: since.length < sorted.length ? (since[0]?.atS ?? null) : null,
    emptyS: from > 0 && Number.isFinite(late) ? { from: soon, to: late } : null,
    whys: whysOf(
      drainA,
      designedA,
      cycle,
      since.map((p) => p.tempC),
    ),
  }
}

/** A rise of the share of charge by so much, and staying there, is a charge. */
const CHARGED = 0.15

/** The points since the cell was last charged or changed: from the last rise that stays. */
function sinceCharged(points: readonly SupplyPoint[], shareAt: (volts: number) => number): readonly SupplyPoint[] {
  const shares = points.map((p) => shareAt(p.volts))
  let from = 0
  for (let i = 1; i < shares.length; i++) {
    const before = Math.min(...shares.slice(Math.max(0, i - 3), i))
    const after = Math.min(...shares.slice(i, i + 3))
    const rises = (shares[i] ?? 0) - (shares[i - 1] ?? 0) > CHARGED / 2
    if (rises && after - before > CHARGED && shares.length - i >= LEAST) from = i
  }
  return points.slice(from)
}

/** Between these lie 95 % of the draws. */
function ends95(draws: number[]): [number, number] {
  draws.sort((a, b) => a - b)
  const at = (share: number) => draws[Math.min(draws.length - 1, Math.floor(share * draws.length))] ?? NaN
  return [at(0.025), at(0.975)]
}

/** One draw of the standard normal distribution (Box–Muller). */
const normal = (next: () => number): number => Math.sqrt(-2 * Math.log(1 - next())) * Math.cos(2 * Math.PI * next())

/** The line at `share` of the way through these. */
function between(lines: readonly Line[], share: number): Pick<Line, 'perDay' | 'error' | 'left' | 'lastS'> {
  const at = Math.min(lines.length - 2, Math.max(0, Math.floor(share * (lines.length - 1))))
  const [a, b] = [lines[at], lines[at + 1]]
  if (!a || !b) throw new RangeError('two lines or more')
  const t = share * (lines.length - 1) - at
  const mix = (of: (l: Line) => number) => of(a) + t * (of(b) - of(a))
  return { lastS: a.lastS, perDay: mix((l) => l.perDay), error: mix((l) => l.error), left: mix((l) => l.left) }
}

interface Line {
  points: number
  days: number
  lastS: number
  /** Share of charge lost a day, its standard error, and what is left at the last point. */
  perDay: number
  error: number
  left: number
}

/** The straight line through the shares of charge; null where there are too few of them, or too close together. */
function lineOf(points: readonly SupplyPoint[], shareAt: (volts: number) => number): Line | null {
  const shares = points
    .map((p) => ({ ...p, share: shareAt(p.volts) }))
    .filter((p) => p.share > ENDS.low && p.share < ENDS.high)
  const [first] = shares
  const last = shares.at(-1)
  if (!first || !last || shares.length < LEAST || last.atS - first.atS < 2 * DAY_S) return null
  const warm = shares.every((p) => p.tempC !== undefined) && spreadOf(shares.map((p) => p.tempC ?? 0)) > 1
  const rows = shares.map((p) => [1, (p.atS - first.atS) / DAY_S, ...(warm ? [(p.tempC ?? 20) - 20] : [])])
  const fit = leastSquares(
    rows,
    shares.map((p) => p.share),
  )
  if (!fit) return null
  const days = (last.atS - first.atS) / DAY_S
  // Student's t at few points is wider than the normal the draws are of.
  const wider = T95(shares.length - (warm ? 3 : 2)) / 1.96
  return {
    points: shares.length,
    days,
    lastS: last.atS,
    perDay: -(fit.x[1] ?? 0),
    error: (fit.errors[1] ?? Infinity) * wider,
    left: (fit.x[0] ?? 0) + (fit.x[1] ?? 0) * days,
  }
}

const spreadOf = (v: readonly number[]): number => Math.max(...v) - Math.min(...v)

/** Reasons that fit a drain other than designed. */
function whysOf(drainA: number, designedA: number, cycle: Cycle, temps: readonly (number | undefined)[]): string[] {
  const times = drainA / designedA
  if (times < 0.7) return ['It drains less than designed: it may wake less often than it should, or not at all by now.']
  if (times < 1.5) return []
  const awake = cycle.phases.find((p) => p.id === 'join')?.a(likelyOf(cycle)) ?? 0.08
  const cold = temps.filter((t): t is number => t !== undefined)
  const mean = cold.reduce((a, b) => a + b, 0) / Math.max(1, cold.length)
  return [
    ...(drainA > awake / 3 ? ['It may never sleep: read its restart cause and uptime; a long uptime says so.'] : []),
    ...(times > 2 && drainA <= awake / 3
      ? ['It may try again and again to join: look at its strength where it hangs, and give it a fixed address.']
      : []),
    ...(cold.length > 0 && mean < 5 ? ['It hangs in the cold, where less of the charge is there.'] : []),
    'A lamp, a charging board or a part that keeps its feed may take more than stated: measure its current asleep and write it in.',
  ]
}

/** Ordinary least squares by normal equations: coefficients and their standard errors; null where they are not told apart. */
function leastSquares(rows: number[][], y: readonly number[]): { x: number[]; errors: number[] } | null {
  const k = rows[0]?.length ?? 0
  const normal = Array.from({ length: k }, (_, i) =>
    Array.from({ length: k }, (__, j) => rows.reduce((s, r) => s + (r[i] ?? 0) * (r[j] ?? 0), 0)),
  )
  const inverse = inverted(normal)
  if (!inverse) return null
  const right = Array.from({ length: k }, (_, i) => rows.reduce((s, r, n) => s + (r[i] ?? 0) * (y[n] ?? 0), 0))
  const x = inverse.map((row) => row.reduce((s, v, j) => s + v * (right[j] ?? 0), 0))
  const residual = rows.reduce((s, r, n) => s + ((y[n] ?? 0) - r.reduce((t, v, j) => t + v * (x[j] ?? 0), 0)) ** 2, 0)
  const variance = residual / Math.max(1, rows.length - k)
  return { x, errors: inverse.map((row, i) => Math.sqrt(Math.max(0, variance * (row[i] ?? 0)))) }
}

/** Gauss–Jordan with the largest pivot; null for a singular matrix. */
function inverted(matrix: readonly (readonly number[])[]): number[][] | null {
  const n = matrix.length
  const m = matrix.map((row, i) => [...row, ...Array.from({ length: n }, (_, j) => Number(i === j))])
  for (let c = 0; c < n; c++) {
    const pivot = m
      .slice(c)
      .reduce((best, row, i) => (Math.abs(row[c] ?? 0) > Math.abs(m[best]?.[c] ?? 0) ? c + i : best), c)
    const [a, b] = [m[c], m[pivot]]
    if (!a || !b || Math.abs(b[c] ?? 0) < 1e-12) return null
    m[c] = b
    m[pivot] = a
    const lead = b[c] ?? 1
    for (let j = 0; j < 2 * n; j++) b[j] = (b[j] ?? 0) / lead
    for (const [r, row] of m.entries()) {
      const by = row[c] ?? 0
      if (r !== c) for (let j = 0; j < 2 * n; j++) row[j] = (row[j] ?? 0) - by * (b[j] ?? 0)
    }
  }
  return m.map((row) => row.slice(n))
}

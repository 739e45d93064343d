import { T95 } from '../calibration/studentT'
import type { Cycle } from './cycle'
import { shareLeft } from './chemistries'
import { likelyOf, meanA } from './life'

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
  /** When it is to be changed or charged, s UTC: earliest and latest; null where the drain is not told from none. */
  emptyS: { from: number; to: number } | null
  /** Why it drains otherwise than designed, the likeliest first. */
  whys: string[]
}

const DAY_S = 86_400
/** Below and above this the curve says little about the charge. */
const ENDS = { low: 0.03, high: 0.97 }
const LEAST = 5

/**
 * The drain of a node in service from the voltages it reported: share of charge by the curve of its cell, a straight line
 * over time by least squares, with what the temperature does taken out where temperatures are known. Null where the
 * points say nothing.
 */
export function inService(points: readonly SupplyPoint[], cycle: Cycle): InService | null {
  const { facts, series, capacityAh } = cycle.cell
  const shares = points
    .map((p) => ({ ...p, share: shareLeft(facts.curve, p.volts / series) }))
    .filter((p) => p.share > ENDS.low && p.share < ENDS.high)
    .sort((a, b) => a.atS - b.atS)
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
  const perDay = -(fit.x[1] ?? 0)
  const freedom = shares.length - (warm ? 3 : 2)
  const half = (fit.errors[1] ?? Infinity) * T95(freedom)
  const amps = (share: number) => (share * capacityAh) / 24
  const x = likelyOf(cycle)
  const designedA = meanA(cycle, x) + cycle.selfA(x)
  const days = (last.atS - first.atS) / DAY_S
  const left = (fit.x[0] ?? 0) + (fit.x[1] ?? 0) * days
  // What stays behind when the board stops is no help.
  const stop = Math.max(0, 1 - cycle.usableAh(x) / capacityAh)
  const daysTo = (rate: number) => Math.max(0, left - stop) / rate
  return {
    points: shares.length,
    days,
    drainA: amps(perDay),
    errorA: amps(half),
    designedA,
    left,
    emptyS:
      perDay > half
        ? { from: last.atS + daysTo(perDay + half) * DAY_S, to: last.atS + daysTo(perDay - half) * DAY_S }
        : null,
    whys: whysOf(
      amps(perDay),
      designedA,
      cycle,
      shares.map((p) => p.tempC),
    ),
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

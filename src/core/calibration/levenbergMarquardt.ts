import { leastSquares, type Matrix } from './leastSquares'

export interface Problem {
  /** Residuals b − f(p), one per row; anything not finite turns a step away. */
  residuals: (p: readonly number[]) => number[]
  /** ∂f/∂p by rows. */
  jacobian: (p: readonly number[]) => Matrix
}

export interface Minimum {
  p: number[]
  /** (JᵀJ)⁻¹ at the minimum. */
  inverse: number[][]
  steps: number
}

/** A narrow bent valley takes thousands: the hardest certified set 5 105. */
const MOST_STEPS = 20_000

/**
 * The parameters that make the sum of squared residuals least, from `start`: Levenberg and Marquardt with Nielsen's
 * control of the damping, each step by reflections of the Jacobian with the damping's rows below it rather than by its
 * normal equations, ended by steps without damping until nothing moves in the last digits. Null where no minimum is
 * found, or one whose parameters cannot be told apart.
 */
export function levenbergMarquardt({ residuals, jacobian }: Problem, start: readonly number[]): Minimum | null {
  let p = [...start]
  let sum = squares(residuals(p))
  if (!Number.isFinite(sum)) return null
  let damping = 1e-3
  let grows = 2
  for (let step = 1; step <= MOST_STEPS; step++) {
    const r = residuals(p)
    const j = jacobian(p)
    const lengths = p.map((_, k) => Math.max(1e-300, Math.hypot(...j.map((row) => row[k] ?? 0))))
    const h = damped(j, r, damping, lengths)
    if (h === null) return null
    const next = p.map((v, i) => v + (h[i] ?? 0))
    const moved = Math.max(...h.map((d, i) => Math.abs(d) / (Math.abs(p[i] ?? 0) + 1e-300)))
    const nextSum = squares(residuals(next))
    if (Number.isFinite(nextSum) && nextSum <= sum) {
      const promised = sum - squares(minus(r, times(j, h)))
      const ratio = promised > 0 ? (sum - nextSum) / promised : 1
      p = next
      sum = nextSum
      damping = Math.max(1e-30, damping * Math.max(1 / 3, 1 - (2 * ratio - 1) ** 3))
      grows = 2
      if (moved < 1e-12) return ended({ residuals, jacobian }, p, step)
    } else {
      if (moved < 1e-14) return ended({ residuals, jacobian }, p, step)
      damping *= grows
      grows *= 2
      if (!Number.isFinite(damping) || damping > 1e60) return ended({ residuals, jacobian }, p, step)
    }
  }
  return null
}

/** A few steps without damping: they only move what is left of the last digits. */
function ended({ residuals, jacobian }: Problem, from: readonly number[], steps: number): Minimum | null {
  let p = [...from]
  let sum = squares(residuals(p))
  for (let polish = 0; polish < 20; polish++) {
    const whole = leastSquares(jacobian(p), residuals(p))
    if (whole === null) return null
    const next = p.map((v, i) => v + (whole.x[i] ?? 0))
    const nextSum = squares(residuals(next))
    if (!(nextSum < sum)) return { p, inverse: whole.inverse, steps }
    p = next
    sum = nextSum
  }
  const whole = leastSquares(jacobian(p), residuals(p))
  return whole && { p, inverse: whole.inverse, steps }
}

/** The step that makes |J h − r|² + damping · |D h|² least, D the diagonal of `lengths`. */
function damped(j: Matrix, r: readonly number[], damping: number, lengths: readonly number[]): number[] | null {
  if (!lengths.every(Number.isFinite)) return null
  const rows = lengths.map((l, k) => lengths.map((_, i) => (i === k ? Math.sqrt(damping) * l : 0)))
  return leastSquares([...j, ...rows], [...r, ...rows.map(() => 0)])?.x ?? null
}

const squares = (r: readonly number[]): number => r.reduce((s, v) => s + v * v, 0)
const times = (j: Matrix, h: readonly number[]): number[] =>
  j.map((row) => row.reduce((s, v, i) => s + v * (h[i] ?? 0), 0))
const minus = (a: readonly number[], b: readonly number[]): number[] => a.map((v, i) => v - (b[i] ?? 0))

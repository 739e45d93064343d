/** A matrix by rows, each of the same length. */
export type Matrix = readonly (readonly number[])[]

export interface LeastSquares {
  /** The unknowns, as many as the matrix has columns. */
  x: number[]
  /** (AᵀA)⁻¹: times the variance of one row's right side, the covariance of the unknowns. */
  inverse: number[][]
}

/**
 * The x that makes |A x − b| least, by Householder reflections of A with its columns brought to length one (Golub and
 * Van Loan, Matrix Computations, 5.3.2). A has at least as many rows as columns. Null where its columns depend on each
 * other as far as double precision can tell.
 */
export function leastSquares(a: Matrix, b: readonly number[]): LeastSquares | null {
  const n = a[0]?.length ?? 0
  const m = a.length
  const length = Array.from({ length: n }, (_, j) => Math.hypot(...a.map((row) => row[j] ?? 0)))
  if (m < n || length.some((l) => !(l > 0) || !Number.isFinite(l))) return null
  const work = a.map((row, i) => Float64Array.from([...row.map((v, j) => v / (length[j] ?? 1)), b[i] ?? 0]))
  for (let k = 0; k < n; k++) if (!reflect(work, k, n)) return null
  const r = (i: number, j: number) => work[i]?.[j] ?? 0
  const back = (right: (i: number) => number): number[] => {
    const x = new Array<number>(n).fill(0)
    for (let i = n - 1; i >= 0; i--) {
      let rest = right(i)
      for (let j = i + 1; j < n; j++) rest -= r(i, j) * (x[j] ?? 0)
      x[i] = rest / r(i, i)
    }
    return x
  }
  const x = back((i) => r(i, n)).map((v, j) => v / (length[j] ?? 1))
  // R⁻¹ by columns; (AᵀA)⁻¹ is R⁻¹ times its transpose.
  const columns = Array.from({ length: n }, (_, j) => back((i) => Number(i === j)))
  const inverse = Array.from({ length: n }, (_, i) =>
    Array.from(
      { length: n },
      (__, j) => columns.reduce((sum, c) => sum + (c[i] ?? 0) * (c[j] ?? 0), 0) / ((length[i] ?? 1) * (length[j] ?? 1)),
    ),
  )
  return { x, inverse }
}

/** Reflects rows from `k` so that column `k` is zero below its diagonal. False where nothing of the column is left. */
function reflect(work: readonly Float64Array[], k: number, n: number): boolean {
  const below = work.slice(k)
  const norm = Math.hypot(...below.map((row) => row[k] ?? 0))
  if (norm < 1e-13) return false
  const head = below[0]?.[k] ?? 0
  const alpha = head > 0 ? -norm : norm
  const v = below.map((row, i) => (row[k] ?? 0) - (i === 0 ? alpha : 0))
  const vv = v.reduce((s, x) => s + x * x, 0)
  for (let j = k; j <= n; j++) {
    const along = (2 * below.reduce((s, row, i) => s + (v[i] ?? 0) * (row[j] ?? 0), 0)) / vv
    below.forEach((row, i) => {
      row[j] = (row[j] ?? 0) - along * (v[i] ?? 0)
    })
  }
  return true
}

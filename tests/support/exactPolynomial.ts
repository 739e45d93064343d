/** A fraction of whole numbers, never rounded. */
class Exact {
  constructor(
    readonly n: bigint,
    readonly d: bigint = 1n,
  ) {}
  static of(v: number): Exact {
    let d = 1n
    let x = v
    // Every double is a whole number over a power of two.
    while (!Number.isInteger(x)) {
      x *= 2
      d *= 2n
    }
    return new Exact(BigInt(x), d).least()
  }
  private least(): Exact {
    let [a, b] = [this.n < 0n ? -this.n : this.n, this.d]
    while (b) [a, b] = [b, a % b]
    const g = this.d < 0n ? -a : a
    return g === 0n ? this : new Exact(this.n / g, this.d / g)
  }
  plus(o: Exact) {
    return new Exact(this.n * o.d + o.n * this.d, this.d * o.d).least()
  }
  times(o: Exact) {
    return new Exact(this.n * o.n, this.d * o.d).least()
  }
  over(o: Exact) {
    return new Exact(this.n * o.d, this.d * o.n).least()
  }
  minus(o: Exact) {
    return this.plus(new Exact(-o.n, o.d))
  }
  get number(): number {
    // Eighteen figures before they become a double.
    const shift = 10n ** BigInt(Math.max(0, 20 + this.d.toString().length - this.n.toString().length))
    return Number((this.n * shift) / this.d) / Number(shift)
  }
}

/**
 * Least-squares polynomial of `degree` through [x, y] by its normal equations in whole numbers: coefficients from the
 * constant one up, and their standard errors.
 */
export function exactPolynomial(points: readonly (readonly number[])[], degree: number) {
  const zero = new Exact(0n)
  const x = points.map(([v = 0]) => Exact.of(v))
  const y = points.map(([, v = 0]) => Exact.of(v))
  const power = (v: Exact, k: number) => Array.from({ length: k }).reduce<Exact>((p) => p.times(v), new Exact(1n))
  const n = degree + 1
  const sum = (f: (i: number) => Exact) => x.reduce<Exact>((s, _, i) => s.plus(f(i)), zero)
  const ata = Array.from({ length: n }, (_, r) =>
    Array.from({ length: n }, (__, c) => sum((i) => power(x[i] as Exact, r + c))),
  )
  const right = Array.from({ length: n }, (_, r) => sum((i) => power(x[i] as Exact, r).times(y[i] as Exact)))
  const inverse = Array.from({ length: n }, (_, c) =>
    solve(
      ata,
      Array.from({ length: n }, (__, r) => new Exact(BigInt(Number(r === c)))),
    ),
  )
  const coefficients = solve(ata, right)
  const left = sum((i) => {
    const r = coefficients.reduce((s, c, k) => s.minus(c.times(power(x[i] as Exact, k))), y[i] as Exact)
    return r.times(r)
  })
  const variance = left.over(new Exact(BigInt(points.length - n)))
  return {
    coefficients: coefficients.map((c) => c.number),
    errors: inverse.map((column, i) => Math.sqrt(variance.times(column[i] as Exact).number)),
  }
}

function solve(matrix: Exact[][], right: Exact[]): Exact[] {
  const rows = matrix.map((row, i) => [...row, right[i] as Exact])
  const n = rows.length
  for (let k = 0; k < n; k++) {
    const at = rows.findIndex((row, i) => i >= k && (row[k] as Exact).n !== 0n)
    const pivot = rows[at] as Exact[]
    rows[at] = rows[k] as Exact[]
    rows[k] = pivot.map((v) => v.over(pivot[k] as Exact))
    for (let i = 0; i < n; i++)
      if (i !== k) {
        const by = rows[i]?.[k] as Exact
        rows[i] = (rows[i] as Exact[]).map((v, j) => v.minus(by.times(rows[k]?.[j] as Exact)))
      }
  }
  return rows.map((row) => row[n] as Exact)
}

/**
 * Two-sided point of Student's t that holds `share` of the distribution between ± t, from its distribution function: the
 * regularized incomplete beta function by its continued fraction (Abramowitz & Stegun 26.5.8 and 26.7.1), solved by
 * bisection. Exact to 1e-9 for any number of degrees of freedom from 1, whole or not; infinite ones are a normal
 * distribution.
 */
export function studentT(share: number, freedom: number): number {
  if (!(freedom >= 1)) throw new RangeError("Student's t needs at least one degree of freedom")
  if (!(share > 0 && share < 1)) throw new RangeError('a share between 0 and 1')
  // Beyond this the difference from a normal distribution is below 1e-9.
  const ν = Math.min(freedom, 1e9)
  let low = 0
  let high = 1
  while (outside(high, ν) > 1 - share) high *= 2
  while (high - low > 1e-12 * high) {
    const t = (low + high) / 2
    if (outside(t, ν) > 1 - share) low = t
    else high = t
  }
  return (low + high) / 2
}

/** Two-sided 95 % point. */
export const T95 = (freedom: number): number => studentT(0.95, freedom)

/** Share of the distribution beyond ± t: I_x(ν/2, 1/2) with x = ν / (ν + t²). */
function outside(t: number, freedom: number): number {
  return incompleteBeta(freedom / (freedom + t * t), freedom / 2, 0.5)
}

function incompleteBeta(x: number, a: number, b: number): number {
  if (x <= 0) return 0
  if (x >= 1) return 1
  const front = Math.exp(logGamma(a + b) - logGamma(a) - logGamma(b) + a * Math.log(x) + b * Math.log1p(-x))
  return x < (a + 1) / (a + b + 2) ? (front * fraction(x, a, b)) / a : 1 - (front * fraction(1 - x, b, a)) / b
}

/** Lentz's evaluation of the continued fraction of the incomplete beta function. */
function fraction(x: number, a: number, b: number): number {
  const kept = (v: number) => (Math.abs(v) < 1e-300 ? 1e-300 : v)
  let c = 1
  let d = 1 / kept(1 - ((a + b) * x) / (a + 1))
  let h = d
  for (let m = 1; m < 500; m++) {
    for (const term of [
      (m * (b - m) * x) / ((a + 2 * m - 1) * (a + 2 * m)),
      -((a + m) * (a + b + m) * x) / ((a + 2 * m) * (a + 2 * m + 1)),
    ]) {
      d = 1 / kept(1 + term * d)
      c = kept(1 + term / c)
      h *= d * c
    }
    if (Math.abs(d * c - 1) < 1e-15) break
  }
  return h
}

/** Lanczos' approximation, good to 15 figures. */
function logGamma(z: number): number {
  const g = [
    676.5203681218851, -1259.1392167224028, 771.32342877765313, -176.61502916214059, 12.507343278686905,
    -0.13857109526572012, 9.9843695780195716e-6, 1.5056327351493116e-7,
  ]
  if (z < 0.5) return Math.log(Math.PI / Math.sin(Math.PI * z)) - logGamma(1 - z)
  const x = z - 1
  const t = x + 7.5
  return (
    0.5 * Math.log(2 * Math.PI) +
    (x + 0.5) * Math.log(t) -
    t +
    Math.log(g.reduce((s, v, i) => s + v / (x + i + 1), 0.99999999999980993))
  )
}

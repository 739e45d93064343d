/**
 * Share of a normal distribution beyond `z` standard deviations above its mean, by the continued fraction of the error
 * function (Abramowitz and Stegun 7.1.14) from 2 on and its series (7.1.5) below; relative error under 1e-10.
 */
export function normalTail(z: number): number {
  if (z < 0) return 1 - normalTail(-z)
  const x = z / Math.SQRT2
  if (z < 2) {
    let [term, sum] = [x, x]
    for (let n = 1; Math.abs(term) > 1e-17 * Math.abs(sum) && n < 200; n++) {
      term *= (-x * x) / n
      sum += term / (2 * n + 1)
    }
    return 0.5 - sum / Math.sqrt(Math.PI)
  }
  let fraction = 0
  for (let n = 120; n > 0; n--) fraction = n / 2 / (x + fraction)
  return Math.exp(-x * x) / (2 * Math.sqrt(Math.PI) * (x + fraction))
}

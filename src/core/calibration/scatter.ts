export interface Scatter {
  n: number
  /** NaN of nothing. */
  mean: number
  /** Standard deviation of one reading about the mean; null from fewer than two. */
  sd: number | null
}

/** How many readings, their mean, and how far one lies from it. */
export function scatterOf(values: readonly number[]): Scatter {
  const n = values.length
  const mean = values.reduce((a, b) => a + b, 0) / n
  const sd = n > 1 ? Math.sqrt(values.reduce((a, v) => a + (v - mean) ** 2, 0) / (n - 1)) : null
  return { n, mean, sd }
}

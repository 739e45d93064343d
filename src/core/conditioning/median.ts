/**
 * Middle of the sorted values; for an even count the lower of the two middles, so that it is always one of them. Throws
 * on none.
 */
export function median(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b)
  const middle = sorted[(sorted.length - 1) >> 1]
  if (middle === undefined) throw new RangeError('median of no values')
  return middle
}

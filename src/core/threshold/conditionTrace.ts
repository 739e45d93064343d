import { calibratedReading } from '../calibration/fit'
import type { Curve } from '../calibration/curve'

/** Readings over time: s, rising; NaN where nothing was known. */
export interface Series {
  s: Float64Array
  value: Float64Array
}

export interface TraceChain {
  min: number
  max: number
  median: number
  averageS: number
  mountM: number | null
  calibration: { gain: number; offset: number; curve: Curve | null } | null
}

/**
 * A whole trace through range, median, average, geometry and calibration, as `chainStep` does one reading at a time, in
 * the reading's unit; NaN is unknown. Linear in the samples.
 */
export function conditionTrace(chain: TraceChain, { s, value }: Series): Float64Array {
  const out = new Float64Array(value.length)
  const size = chain.median
  const ring = new Float64Array(size)
  const sorted = new Float64Array(size)
  let held = 0
  let next = 0
  let average = NaN
  for (let i = 0; i < value.length; i++) {
    const reading = value[i] ?? NaN
    if (!(reading >= chain.min && reading <= chain.max)) {
      held = 0
      next = 0
      average = NaN
      out[i] = NaN
      continue
    }
    if (held === size) held = without(sorted, held, ring[next] ?? 0)
    held = having(sorted, held, reading)
    ring[next] = reading
    next = (next + 1) % size
    let middle = sorted[(held - 1) >> 1] ?? 0
    if (chain.averageS > 0 && !Number.isNaN(average)) {
      const since = (s[i] ?? 0) - (s[i - 1] ?? 0)
      middle = average + (since / (chain.averageS + since)) * (middle - average)
    }
    average = middle
    const placed = chain.mountM === null ? middle : chain.mountM - middle
    const told = chain.calibration ? calibratedReading(chain.calibration, placed) : placed
    out[i] = told > -1e30 && told < 1e30 ? told : NaN
  }
  return out
}

/** Sorted values without one of them; how many are left. */
function without(sorted: Float64Array, n: number, v: number): number {
  let i = 0
  while (i < n && sorted[i] !== v) i++
  for (; i < n - 1; i++) sorted[i] = sorted[i + 1] ?? 0
  return n - 1
}

/** Sorted values with one more; how many there are. */
function having(sorted: Float64Array, n: number, v: number): number {
  let i = n
  while (i > 0 && (sorted[i - 1] ?? 0) > v) {
    sorted[i] = sorted[i - 1] ?? 0
    i--
  }
  sorted[i] = v
  return n + 1
}

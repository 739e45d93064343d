import type { Cycle } from './cycle'
import { lifeH } from './life'
import { triangular } from './spread'

export interface Drawn {
  draws: number
  /** Life that nine of ten, half and one of ten such nodes reach, h. */
  p10: number
  p50: number
  p90: number
}

export const DRAWS = 100_000
const SEED = 20261127

/** Mulberry32: the same seed, the same draws. */
export function random(seed: number): () => number {
  let state = seed | 0
  return () => {
    state = (state + 0x6d2b79f5) | 0
    let t = Math.imul(state ^ (state >>> 15), 1 | state)
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32
  }
}

/** Life by draws: every input by itself, triangular between its ends. The same model gives the same result. */
export function drawLife(cycle: Cycle, draws = DRAWS, seed = SEED): Drawn {
  const next = random(seed)
  const spreads = cycle.inputs.map((i) => i.value)
  const x = Float64Array.from(spreads, (s) => s.likely)
  const varying = spreads.flatMap((s, i) => (s.high > s.low ? [{ i, s }] : []))
  const lives = new Float64Array(draws)
  for (let n = 0; n < draws; n++) {
    for (const { i, s } of varying) x[i] = triangular(s, next())
    lives[n] = lifeH(cycle, x)
  }
  lives.sort()
  const at = (share: number) => lives[Math.min(draws - 1, Math.floor(share * draws))] ?? NaN
  return { draws, p10: at(0.1), p50: at(0.5), p90: at(0.9) }
}

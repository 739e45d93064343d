import { conditionTrace, type TraceChain } from '../src/core/threshold/conditionTrace'
import { PRESENCE_PRICES } from '../src/core/threshold/price'
import { replay } from '../src/core/threshold/replay'
import { search } from '../src/core/threshold/search'
import { reducedIndices } from '../src/core/trace/reduced'
import { room } from '../tests/support/rooms'

type Row = [string, string, string]
const CHAIN: TraceChain = { min: 0.02, max: 4, median: 1, averageS: 0, mountM: null, calibration: null }

function timed<T>(work: () => T): { ms: number; got: T } {
  const began = performance.now()
  const got = work()
  return { ms: performance.now() - began, got }
}
const median = (all: number[]): number => [...all].sort((a, b) => a - b)[all.length >> 1] ?? NaN

/** A room of so many samples, and what one bare pass over them takes here: nothing that looks at each can be faster. */
function roomOf(samples: number) {
  const [day] = room(20, 1, samples / 3600)
  if (!day) throw new Error('no room')
  const pass = median(
    Array.from({ length: 9 }, () => {
      let [low, high] = [Infinity, -Infinity]
      const { ms } = timed(() => {
        for (const v of day.value) {
          if (v < low) low = v
          if (v > high) high = v
        }
      })
      return low <= high ? ms : NaN
    }),
  )
  return { day, pass }
}

/** Thresholds searched over whole traces; a long one drawn, and replayed with every pixel a line is dragged. */
export function tuning(): Row[] {
  const rows: Row[] = []
  for (const [samples, asked] of [
    [100_000, '≤ 1 s'],
    [1_000_000, 'progress and a stop'],
  ] as const) {
    const { day, pass } = roomOf(samples)
    let told = 0
    const question = { series: day, chain: CHAIN, truth: day.truth, prices: PRESENCE_PRICES, on: 'below' as const }
    const { ms, got } = timed(() => search(question, () => ++told > 0))
    const each = got ? ms / got.tried / pass : NaN
    rows.push([
      `threshold searched over ${samples} samples`,
      `${(ms / 1000).toFixed(2)} s for ${got?.tried ?? 0} combinations, ${each.toFixed(3)} bare passes each; progress told ${told} times`,
      asked,
    ])
  }
  const { day, pass } = roomOf(1_000_000)
  const value = conditionTrace(CHAIN, day)
  const t = { cut: 1.5, band: 0.1, on: 'below' as const, holdOnS: 0, holdOffS: 60 }
  const drag = median(Array.from({ length: 9 }, () => timed(() => replay(t, day.s, value)).ms))
  const draw = median(Array.from({ length: 9 }, () => timed(() => reducedIndices(day.value, 1500)).ms))
  const said = (ms: number) => `${ms.toFixed(1)} ms, ${(ms / pass).toFixed(1)} bare passes`
  rows.push(['a million samples replayed as the line is dragged', said(drag), 'a frame or two: ≤ 33 ms'])
  rows.push(['a million samples reduced to what is drawn', said(draw), 'a frame or two: ≤ 33 ms'])
  return rows
}

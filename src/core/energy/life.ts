import type { Cycle, Phase } from './cycle'
import type { Spread } from './spread'

export const likelyOf = (cycle: Cycle): Float64Array => Float64Array.from(cycle.inputs, (i) => i.value.likely)

/** Mean current at the cell over a cycle, its own discharge left out, A. */
export function meanA({ phases, periodS }: Cycle, x: ArrayLike<number>): number {
  let charge = 0
  for (const p of phases) charge += p.s(x) * p.a(x)
  return charge / periodS(x)
}

/** How long it lasts, h. */
export const lifeH = (cycle: Cycle, x: ArrayLike<number>): number =>
  cycle.usableAh(x) / (meanA(cycle, x) + cycle.selfA(x))

export interface PhaseCharge {
  id: Phase['id']
  words: string
  s: Spread
  a: Spread
  /** Charge of one cycle, mAh, likely, and its share of all. */
  mAh: number
  share: number
}

/** One cycle phase by phase. Ends of times and currents are those of their own inputs. */
export function phaseCharges(cycle: Cycle): PhaseCharge[] {
  const { ends, helps } = directions(cycle)
  const x = likelyOf(cycle)
  const list = cycle.phases.map((p) => {
    const range = (of: (x: ArrayLike<number>) => number): Spread => {
      const [a, b] = [of(ends), of(helps)]
      return { low: Math.min(a, b), likely: of(x), high: Math.max(a, b) }
    }
    return { id: p.id, words: p.words, s: range(p.s), a: range(p.a), mAh: (p.s(x) * p.a(x)) / 3.6 }
  })
  const all = list.reduce((sum, p) => sum + p.mAh, 0)
  return list.map((p) => ({ ...p, share: all > 0 ? p.mAh / all : 0 }))
}

/** Every input at the end that shortens life, and at the one that lengthens it. */
function directions(cycle: Cycle): { ends: Float64Array; helps: Float64Array } {
  const likely = likelyOf(cycle)
  const ends = likely.slice()
  const helps = likely.slice()
  cycle.inputs.forEach(({ value }, i) => {
    const at = (v: number) => {
      const x = likely.slice()
      x[i] = v
      return lifeH(cycle, x)
    }
    const highIsShort = at(value.high) <= at(value.low)
    ends[i] = highIsShort ? value.high : value.low
    helps[i] = highIsShort ? value.low : value.high
  })
  return { ends, helps }
}

/** Life with every input at its worst, likely and best, h: it brackets whatever draws give. */
export function threePoint(cycle: Cycle): Spread {
  const { ends, helps } = directions(cycle)
  return { low: lifeH(cycle, ends), likely: lifeH(cycle, likelyOf(cycle)), high: lifeH(cycle, helps) }
}

export interface Swing {
  id: string
  words: string
  /** Life at its two ends with all else likely, h, shorter first. */
  shortH: number
  longH: number
  /** Its square among the squares of all swings: which input the range comes from, one at a time. */
  share: number
}

/** Which input the range of life comes from, largest first, by swinging one at a time. */
export function swings(cycle: Cycle): Swing[] {
  const likely = likelyOf(cycle)
  const list = cycle.inputs.map(({ id, words, value }, i) => {
    const at = (v: number) => {
      const x = likely.slice()
      x[i] = v
      return lifeH(cycle, x)
    }
    const [a, b] = [at(value.low), at(value.high)]
    return { id, words, shortH: Math.min(a, b), longH: Math.max(a, b) }
  })
  const all = list.reduce((s, l) => s + (l.longH - l.shortH) ** 2, 0)
  return list
    .map((l) => ({ ...l, share: all > 0 ? (l.longH - l.shortH) ** 2 / all : 0 }))
    .sort((a, b) => b.share - a.share)
}

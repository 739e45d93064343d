import { conditionTrace, type Series, type TraceChain } from './conditionTrace'
import { costOf, type Price, type Prices, priceOf, joined, type Span, truthOf } from './price'
import {
  beginsOn,
  edgesOf,
  lasting,
  type Passed,
  passedAll,
  replay,
  type Runs,
  switched,
  type Threshold,
} from './replay'

export interface Proposal extends Threshold {
  median: number
}

export interface Tried {
  proposal: Proposal
  cost: number
  missed: number
  falseMinutes: number
}

export interface Grid {
  medians: readonly number[]
  cuts: readonly number[]
  bands: readonly number[]
  holdOnS: readonly number[]
  holdOffS: readonly number[]
}

export interface Question {
  series: Series
  chain: TraceChain
  /** Spans in which it should be on. */
  truth: readonly Span[]
  unsure?: readonly Span[]
  prices: Prices
  on: Threshold['on']
  grid?: Grid
}

export interface Answer {
  best: Tried
  price: Price
  /** Cheapest for every number of misses, fewest misses first: what fewer of them would cost in wrong minutes. */
  frontier: Tried[]
  tried: number
}

const MEDIANS = [1, 3, 5, 9]
const HOLD_ON_S = [0, 1, 2, 5]
const HOLD_OFF_S = [0, 2, 5, 10, 20, 40, 80, 160, 320]
const CUTS = 20
const BAND_SHARES = [0, 0.03, 0.1]

/** The grid that is tried where none is stated: cuts at quantiles of the trace, bands as shares of where it mostly is. */
export function gridFor(value: Float64Array): Grid {
  const known = Float64Array.from(value.filter((v) => v === v)).sort()
  const at = (share: number) => known[Math.min(known.length - 1, Math.floor(share * known.length))] ?? 0
  const wide = at(0.99) - at(0.01)
  const cuts = new Set<number>()
  for (let i = 0; i < CUTS / 2; i++) {
    cuts.add(rounded(at((i + 0.5) / (CUTS / 2)), wide))
    // Between two humps there are few samples and the best places.
    cuts.add(rounded(at(0.01) + (wide * (i + 0.5)) / (CUTS / 2), wide))
  }
  return {
    medians: MEDIANS,
    cuts: [...cuts].sort((a, b) => a - b),
    bands: BAND_SHARES.map((share) => rounded(share * wide, wide)),
    holdOnS: HOLD_ON_S,
    holdOffS: HOLD_OFF_S,
  }
}

/** To three figures of the whole: nobody can tell more. */
function rounded(v: number, wide: number): number {
  const step = 10 ** Math.floor(Math.log10(Math.max(wide, 1e-9)) - 2)
  return Number((Math.round(v / step) * step).toPrecision(9))
}

/**
 * Every combination of the grid over the whole trace, the cheapest refined between its neighbours. `progress` is called
 * with the share that is done and ends the search by answering false. Null where it was ended, or nothing is known.
 */
export function search(question: Question, progress: (share: number) => boolean = () => true): Answer | null {
  const { series, chain } = question
  const first = conditionTrace({ ...chain, median: 1 }, series)
  const grid = question.grid ?? gridFor(first)
  if (grid.cuts.length === 0) return null
  const book = new Ledger()
  for (const [m, median] of grid.medians.entries()) {
    const value = median === 1 ? first : conditionTrace({ ...chain, median }, series)
    const crossings = crossingsOf(value, grid, question.on)
    for (const [c, cut] of grid.cuts.entries()) {
      if (!progress((m + c / grid.cuts.length) / (grid.medians.length + 1))) return null
      tryCut(question, { ...grid, medians: [median], cuts: [cut] }, { value, at: crossings }, book)
    }
  }
  const coarse = book.best
  if (coarse === null) return null
  if (question.grid === undefined) refine(question, grid, coarse, book)
  if (book.best === null || !progress(1)) return null
  const best = middle(book, book.best)
  const value = conditionTrace({ ...chain, median: best.proposal.median }, series)
  const price = priceOf(
    replay(best.proposal, series.s, value),
    joined(question.truth),
    question.prices,
    question.unsure,
  )
  return { best, price, frontier: book.frontier(), tried: book.tried }
}

/** Conditioned values, and where they pass each level of a grid. */
interface Walked {
  value: Float64Array
  at: (level: number) => Passed
}

function crossingsOf(value: Float64Array, { cuts, bands }: Grid, on: Threshold['on']): Walked['at'] {
  const asked = cuts.flatMap((cut) => bands.flatMap((band) => Object.values(edgesOf({ cut, band, on }))))
  const levels = Float64Array.from(new Set(asked)).sort()
  const passed = passedAll(value, levels, on === 'above')
  const of = new Map(Array.from(levels, (l, k) => [l, passed[k] as Passed]))
  return (level) => of.get(level) as Passed
}

/** All bands and holds at one cut. */
function tryCut(
  { series: { s }, truth, unsure, prices, on }: Question,
  grid: Grid,
  { value, at }: Walked,
  book: Ledger,
): void {
  const [median = 1] = grid.medians
  const [cut = 0] = grid.cuts
  const real = truthOf(truth, unsure)
  const begins = beginsOn(value, { cut, on })
  for (const band of grid.bands) {
    const { toOn, toOff } = edgesOf({ cut, band, on })
    const ons = at(toOn).on
    const offs = at(toOff).off
    const offLasting = grid.holdOffS.map((h) => lasting(offs, s, h))
    for (const holdOnS of grid.holdOnS) {
      const onLasting = lasting(ons, s, holdOnS)
      for (const [k, holdOffS] of grid.holdOffS.entries()) {
        const spans = switched(s, onLasting, offLasting[k] as Runs, { holdOnS, holdOffS, begins })
        book.note({ proposal: { median, cut, band, on, holdOnS, holdOffS }, ...costOf(spans, real, prices) })
      }
    }
  }
}

/** Finer cuts and holds between the neighbours of the best. */
function refine(question: Question, grid: Grid, { proposal: p }: Tried, book: Ledger): void {
  const value = conditionTrace({ ...question.chain, median: p.median }, question.series)
  const around = (list: readonly number[], v: number, n: number) => {
    const i = list.indexOf(v)
    const [low, high] = [list[i - 1] ?? v, list[i + 1] ?? v]
    return [
      ...new Set([
        v,
        ...Array.from({ length: n }, (_, k) => Number((low + ((high - low) * (k + 1)) / (n + 1)).toPrecision(4))),
      ]),
    ]
  }
  const finer = { bands: [p.band], holdOnS: [p.holdOnS], holdOffS: around(grid.holdOffS, p.holdOffS, 7) }
  const cuts = around(grid.cuts, p.cut, 9)
  const at = crossingsOf(value, { ...grid, ...finer, cuts }, question.on)
  for (const cut of cuts) tryCut(question, { ...finer, medians: [p.median], cuts: [cut] }, { value, at }, book)
  // How far the plateau reaches on which the best lies.
  const { proposal: q } = book.best ?? { proposal: p }
  const one = { bands: [q.band], holdOnS: [q.holdOnS], holdOffS: [q.holdOffS] }
  const coarse = crossingsOf(value, { ...one, medians: [q.median], cuts: grid.cuts }, question.on)
  for (const cut of grid.cuts)
    tryCut(question, { ...one, medians: [q.median], cuts: [cut] }, { value, at: coarse }, book)
}

/** What was tried: the cheapest, and for every number of misses the cheapest. */
class Ledger {
  best: Tried | null = null
  tried = 0
  private readonly byMissed = new Map<number, Tried>()
  /** Cuts that cost as little as the best with everything else the same. */
  private equal: number[] = []

  note(t: Tried): void {
    this.tried += 1
    const kept = this.byMissed.get(t.missed)
    if (!kept || t.falseMinutes < kept.falseMinutes) this.byMissed.set(t.missed, t)
    if (this.best === null || cheaper(t, this.best)) {
      this.best = t
      this.equal = [t.proposal.cut]
    } else if (t.cost === this.best.cost && sameBut(t.proposal, this.best.proposal)) this.equal.push(t.proposal.cut)
  }

  get equalCuts(): number[] {
    return [...this.equal].sort((a, b) => a - b)
  }

  frontier(): Tried[] {
    const out: Tried[] = []
    for (const t of [...this.byMissed.values()].sort((a, b) => a.missed - b.missed))
      if (t.falseMinutes < (out.at(-1)?.falseMinutes ?? Infinity)) out.push(t)
    return out
  }
}

/** Cheaper; for the same price the one that waits less, then the smaller median, then the wider band. */
function cheaper(a: Tried, b: Tried): boolean {
  const order = (t: Tried) => [t.cost, t.proposal.holdOffS + t.proposal.holdOnS, t.proposal.median, -t.proposal.band]
  const [x, y] = [order(a), order(b)]
  const i = x.findIndex((v, k) => v !== y[k])
  return i >= 0 && (x[i] ?? 0) < (y[i] ?? 0)
}

const sameBut = (a: Proposal, b: Proposal): boolean =>
  a.median === b.median && a.band === b.band && a.holdOnS === b.holdOnS && a.holdOffS === b.holdOffS

/** Of cuts that cost the same, the one nearest to their middle is farthest from trouble. */
function middle(book: Ledger, best: Tried): Tried {
  const cuts = book.equalCuts
  const half = ((cuts[0] ?? 0) + (cuts.at(-1) ?? 0)) / 2
  const cut = cuts.reduce((a, c) => (Math.abs(c - half) < Math.abs(a - half) ? c : a), cuts[0] ?? best.proposal.cut)
  return { ...best, proposal: { ...best.proposal, cut } }
}

/** On which side of a threshold the marked values lie: above where their median is above that of the others. */
export function sideOf(value: Float64Array, s: Float64Array, truth: readonly Span[]): Threshold['on'] {
  const [inside, outside]: [number[], number[]] = [[], []]
  let j = 0
  for (let i = 0; i < value.length; i++) {
    const v = value[i] ?? NaN
    if (v !== v) continue
    while (j < truth.length && (truth[j]?.to ?? 0) <= (s[i] ?? 0)) j++
    const marked = j < truth.length && (truth[j]?.from ?? 0) <= (s[i] ?? 0)
    ;(marked ? inside : outside).push(v)
  }
  if (inside.length === 0 || outside.length === 0) return 'below'
  const half = (list: number[]) => Float64Array.from(list).sort()[list.length >> 1] ?? 0
  return half(inside) > half(outside) ? 'above' : 'below'
}

import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import type { Levels } from '../../src/core/catalog/levels'
import { chainStep, startChain } from '../../src/core/conditioning/chain'
import { LEVEL_START, levelStep } from '../../src/core/conditioning/levels'
import { conditionTrace, type TraceChain } from '../../src/core/threshold/conditionTrace'
import { humpsOf } from '../../src/core/threshold/humps'
import { costOf, joined, minus, PRESENCE_PRICES, priceOf, type Span, truthOf } from '../../src/core/threshold/price'
import { replay, type Threshold } from '../../src/core/threshold/replay'
import { gridFor, search, sideOf } from '../../src/core/threshold/search'
import { threshold } from '../../src/cli/threshold'
import { normal, seeded } from '../support/chance'
import { room, type RoomDay } from '../support/rooms'

const reading = fc.option(
  fc.integer({ min: -60, max: 60 }).map((v) => v / 10),
  { freq: 8 },
)
const trace = fc.array(fc.tuple(reading, fc.constantFrom(0.25, 0.5, 1, 3)), { minLength: 2, maxLength: 50 })
const chainOf = fc.record({
  min: fc.constant(-5),
  max: fc.constant(5),
  median: fc.constantFrom(1, 3, 5, 7, 9),
  averageS: fc.constantFrom(0, 2),
  mountM: fc.constantFrom(null, 1.5),
  calibration: fc.constantFrom(null, { gain: 1.1, offset: -0.2, curve: null }),
})
const thresholdOf = fc.record({
  cut: fc.integer({ min: -30, max: 30 }).map((v) => v / 10),
  band: fc.constantFrom(0, 0.4, 1),
  on: fc.constantFrom<Threshold['on']>('below', 'above'),
  holdOnS: fc.constantFrom(0, 0.5, 2),
  holdOffS: fc.constantFrom(0, 1, 4, 10),
})

type Steps = [number | null, number][]
function seriesOf(steps: Steps) {
  let at = 0
  const s = steps.map(([, gap], i) => (i === 0 ? 0 : (at += gap)))
  return { s: Float64Array.from(s), value: Float64Array.from(steps.map(([v]) => v ?? NaN)) }
}

/** The same by what boards run, one reading at a time. */
function onTheNode(chain: TraceChain, t: Threshold, { s, value }: ReturnType<typeof seriesOf>): boolean[] {
  const { calibration, ...rest } = chain
  const settings = { ...rest, gain: calibration?.gain ?? 1, offset: calibration?.offset ?? 0 }
  const levels: Levels = {
    words: ['low', 'high'],
    cuts: [t.cut],
    band: t.band,
    holdS: t.on === 'above' ? [t.holdOffS, t.holdOnS] : [t.holdOnS, t.holdOffS],
    unknown: t.on === 'above' ? 0 : 1,
    on: t.on === 'above' ? 1 : 0,
  }
  let state = startChain()
  let level = LEVEL_START
  return Array.from(value, (v, i) => {
    const step = chainStep(settings, state, Number.isNaN(v) ? null : v, i === 0 ? 0 : (s[i] ?? 0) - (s[i - 1] ?? 0))
    state = step.state
    level = levelStep(levels, level, step.value, (s[i] ?? 0) * 1000)
    return level.at === levels.on
  })
}

const covers = (spans: readonly Span[], at: number) => spans.some((x) => at >= x.from && at < x.to)

describe('a trace is replayed as the node would have run it', () => {
  test('conditioning, whole trace at once or one reading at a time', () => {
    fc.assert(
      fc.property(chainOf, trace, (chain, steps) => {
        const series = seriesOf(steps)
        const { calibration, ...rest } = chain
        const settings = { ...rest, gain: calibration?.gain ?? 1, offset: calibration?.offset ?? 0 }
        let state = startChain()
        const one = steps.map(([v], i) => {
          const since = i === 0 ? 0 : (series.s[i] ?? 0) - (series.s[i - 1] ?? 0)
          const step = chainStep(settings, state, v, since)
          state = step.state
          return step.value ?? NaN
        })
        expect([...conditionTrace(chain, series)]).toEqual(one)
      }),
      { numRuns: 300 },
    )
  })

  test('threshold, band, holds and unknown', () => {
    let changes = 0
    fc.assert(
      fc.property(chainOf, thresholdOf, trace, (chain, t, steps) => {
        const series = seriesOf(steps)
        const spans = replay(t, series.s, conditionTrace(chain, series))
        const states = onTheNode(chain, t, series)
        changes += spans.length
        // At the last sample a span that has just begun has no length yet.
        states.slice(0, -1).forEach((on, i) => expect(covers(spans, series.s[i] ?? 0), `sample ${i}`).toBe(on))
      }),
      { numRuns: 600 },
    )
    expect(changes).toBeGreaterThan(300)
  })
})

test('what is wrong and what is missed is what a walk over tenths of a second finds', () => {
  const spans = fc
    .array(fc.tuple(fc.integer({ min: 0, max: 300 }), fc.integer({ min: 1, max: 60 })), { maxLength: 8 })
    .map((list) => joined(list.map(([from, long]) => ({ from: from / 10, to: (from + long) / 10 }))))
  fc.assert(
    fc.property(spans, spans, spans, (on, truth, unsure) => {
      const { wrong, falseMinutes, missed } = priceOf(on, truth, { missed: 1, falseMinute: 1, graceS: 0 }, unsure)
      let tenths = 0
      for (let k = 0; k < 400; k++) {
        const at = (k + 0.5) / 10
        const counted = !covers(unsure, at)
        expect(covers(wrong, at)).toBe(counted && covers(on, at) && !covers(truth, at))
        expect(covers(missed, at)).toBe(counted && covers(truth, at) && !covers(on, at))
        tenths += Number(covers(wrong, at))
      }
      expect(falseMinutes).toBeCloseTo(tenths / 600, 9)
      expect(minus(on, on)).toEqual([])
    }),
    { numRuns: 200 },
  )
})

describe('the search', () => {
  test('finds what trying everything finds', () => {
    const prices = { missed: 5, falseMinute: 30, graceS: 0.5 }
    const small = {
      medians: [1, 3],
      cuts: [-2, -0.5, 0.5, 2],
      bands: [0, 0.5],
      holdOnS: [0, 1],
      holdOffS: [0, 2, 5],
    }
    const plain: TraceChain = { min: -5, max: 5, median: 1, averageS: 0, mountM: null, calibration: null }
    fc.assert(
      fc.property(
        trace,
        fc.constantFrom<Threshold['on']>('below', 'above'),
        fc.nat(40),
        fc.nat(40),
        (steps, on, a, b) => {
          const series = seriesOf(steps)
          const truth = [{ from: Math.min(a, b) / 4, to: Math.max(a, b) / 4 + 1 }]
          const end = series.s.at(-1) ?? 0
          const inside = truth.filter((x) => x.from < end).map((x) => ({ from: x.from, to: Math.min(x.to, end) }))
          let least = Infinity
          for (const median of small.medians)
            for (const cut of small.cuts)
              for (const band of small.bands)
                for (const holdOnS of small.holdOnS)
                  for (const holdOffS of small.holdOffS) {
                    const states = onTheNode({ ...plain, median }, { cut, band, on, holdOnS, holdOffS }, series)
                    const spans = states
                      .slice(0, -1)
                      .flatMap((is, i) => (is ? [{ from: series.s[i] ?? 0, to: series.s[i + 1] ?? 0 }] : []))
                    least = Math.min(least, priceOf(joined(spans), inside, prices).cost)
                  }
          const found = search({ series, chain: plain, truth: inside, prices, on, grid: small })
          expect(found?.best.cost).toBeCloseTo(least, 9)
          expect(found?.price.cost).toBeCloseTo(least, 9)
        },
      ),
      { numRuns: 40 },
    )
  }, 60_000)

  test('takes the side the marked values lie on', () => {
    const [day] = room(4, 1, 1)
    const { s, value, truth } = day as RoomDay
    expect(sideOf(value, s, truth)).toBe('below')
    expect(
      sideOf(
        value.map((v) => -v),
        s,
        truth,
      ),
    ).toBe('above')
  })

  test('can be stopped, and says how far it is', () => {
    const [day] = room(1, 1, 1)
    const { s, value, truth } = day as RoomDay
    const shares: number[] = []
    const stopped = search(
      { series: { s, value }, chain: ranger, truth, prices: PRESENCE_PRICES, on: 'below' },
      (share) => shares.push(share) < 5,
    )
    expect(stopped).toBeNull()
    expect(shares).toHaveLength(5)
  })
})

const ranger: TraceChain = { min: 0.02, max: 5, median: 1, averageS: 0, mountM: null, calibration: null }

test('chosen on day one, judged on day two of twenty rooms: cheaper than one metre and one minute', () => {
  let [ours, usual] = [0, 0]
  for (let seed = 1; seed <= 20; seed++) {
    const [one, two] = room(seed, 2) as [RoomDay, RoomDay]
    const found = search({ series: one, chain: ranger, truth: one.truth, prices: PRESENCE_PRICES, on: 'below' })
    if (!found) throw new Error('nothing found')
    const judged = (t: Threshold, median: number) =>
      priceOf(replay(t, two.s, conditionTrace({ ...ranger, median }, two)), two.truth, PRESENCE_PRICES).cost
    ours += judged(found.best.proposal, found.best.proposal.median)
    usual += judged({ cut: 1, band: 0, on: 'below', holdOnS: 0, holdOffS: 60 }, 1)
  }
  expect(ours).toBeLessThan(usual)
}, 240_000)

describe('a trace without marks', () => {
  const chance = seeded(5)
  const drawn = (...humps: [mean: number, sd: number, n: number][]) =>
    Float64Array.from(humps.flatMap(([mean, sd, n]) => Array.from({ length: n }, () => mean + sd * normal(chance))))
  test('two humps of one width are parted half-way, three twice, and one not at all', () => {
    const two = humpsOf(drawn([1, 0.1, 4000], [3, 0.1, 4000]))
    expect(two?.cuts).toHaveLength(1)
    expect(two?.cuts[0]).toBeCloseTo(2, 1)
    expect(two?.words).toMatch(/^Sure: two humps/)
    const three = humpsOf(drawn([0, 0.1, 3000], [1.65, 0.05, 3000], [3.3, 0.1, 3000]))
    expect(three?.humps.map((h) => Math.round(h.mean * 100) / 100)).toEqual(
      [0, 1.65, 3.3].map((m) => expect.closeTo(m, 1)),
    )
    expect(humpsOf(drawn([1, 0.3, 5000]))).toMatchObject({ cuts: [], words: expect.stringMatching(/One hump/) })
    expect(humpsOf(new Float64Array(5))).toBeNull()
  })
  test('how sure it is agrees with counting', () => {
    // Two humps 3 σ apart: 6.68 % of each lies beyond the middle by the normal tables.
    const close = humpsOf(drawn([0, 1, 20_000], [3, 1, 20_000]))
    expect(close?.mistaken).toBeCloseTo(0.0668, 2)
    expect(close?.words).toMatch(/^Unsure/)
  })
})

test('a gap in the middle counts however short, one at an end only beyond the grace', () => {
  const prices = { missed: 1, falseMinute: 0, graceS: 2 }
  const truth = [{ from: 10, to: 40 }]
  const missed = (...on: [number, number][]) => {
    const spans = on.map(([from, to]) => ({ from, to }))
    const { missed: list } = priceOf(spans, truth, prices)
    expect(costOf(spans, truthOf(truth), prices).missed).toBe(list.length)
    return list.length
  }
  expect(missed([11, 39])).toBe(0)
  expect(missed([13, 39])).toBe(1)
  expect(missed([10, 20], [20.2, 40])).toBe(1)
  expect(missed()).toBe(1)
  expect(missed([0, 50])).toBe(0)
})

test('the grid is about where the values are', () => {
  const { cuts, bands } = gridFor(Float64Array.from({ length: 1000 }, (_, i) => (i % 2 ? 0.8 : 2.4)))
  expect(Math.min(...cuts)).toBeGreaterThanOrEqual(0.79)
  expect(Math.max(...cuts)).toBeLessThanOrEqual(2.41)
  expect(cuts.some((c) => c > 1.2 && c < 2)).toBe(true)
  expect(bands[0]).toBe(0)
})

test('on the command line: the side is found, words are asked for, and a trace without marks says how sure it is', () => {
  const csv = `s,distance\n${Array.from({ length: 400 }, (_, i) => `${i},${i >= 100 && i < 250 ? 0.8 + (i % 7) / 100 : i % 50 === 0 ? '' : 2.4}`).join('\n')}\n`
  const marks = 'from,to,word\n100,250,somebody\n300,310,unsure\n'
  const told = JSON.parse(threshold(csv, marks, { json: true })) as {
    cut: number
    on: string
    cost: number
    word: string
  }
  expect(told).toMatchObject({ on: 'below', cost: 0, word: 'somebody' })
  expect(told.cut).toBeGreaterThan(1.2)
  expect(told.cut).toBeLessThan(2)
  expect(threshold(csv, null, {})).toMatch(/two humps[\s\S]*cut at [12]\./)
  expect(() => threshold(csv, marks, { word: 'nobody' })).toThrow(/--word takes somebody/)
  expect(() => threshold(csv, marks, { on: 'beside' })).toThrow(/above or below/)
  expect(() => threshold('s,v\n', marks, {})).toThrow(/two samples/)
  expect(() => threshold(csv, 'from,to,word\n9,3,x\n', {})).toThrow(/line 2: a mark ends after/)
})

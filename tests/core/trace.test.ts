import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { firstAtOrAfter, reducedIndices } from '../../src/core/trace/reduced'
import { type Trace, traceSchema, trimmed } from '../../src/core/trace/trace'
import { marksCsv, readMarks, readSamples, samplesCsv, samplesSenml } from '../../src/core/trace/traceText'

const trace = fc
  .array(
    fc.tuple(
      fc.integer({ min: 1, max: 5000 }),
      fc.option(fc.double({ min: -1e6, max: 1e6, noNaN: true }), { freq: 6 }),
    ),
    { minLength: 2, maxLength: 60 },
  )
  .map((list): Trace => {
    let at = 0
    return traceSchema.parse({
      name: 'a trace',
      at: '2026-11-24T10:00:00.000Z',
      unit: 'm',
      source: 'close',
      s: list.map(([gap], i) => (i === 0 ? 0 : (at += gap) / 1000)),
      value: list.map(([, v]) => (v === null ? null : Number(v.toPrecision(9)))),
      marks: [{ from: 0, to: 0.001, word: 'open, "so"' }],
    })
  })

describe('a trace as text', () => {
  test('comes back from CSV as it was, its marks too', () => {
    fc.assert(
      fc.property(trace, (t) => {
        expect(readSamples(samplesCsv(t, 'level'))).toEqual({ kind: 'samples', at: null, s: t.s, value: t.value })
        expect(readMarks(marksCsv(t.marks))).toEqual({ kind: 'marks', marks: t.marks })
      }),
    )
  })

  test('comes back from SenML but for the moments nothing was known', () => {
    fc.assert(
      fc.property(trace, (t) => {
        const known = t.s.flatMap((at, i) => (t.value[i] === null ? [] : [[at, t.value[i]] as const]))
        fc.pre(known.length >= 2)
        const back = readSamples(samplesSenml(t, 'tank/level'))
        if (back.kind === 'none') throw new Error(back.reason)
        const zero = known[0]?.[0] ?? 0
        back.s.forEach((at, i) => expect(at).toBeCloseTo((known[i]?.[0] ?? 0) - zero, 3))
        expect(back.value).toEqual(known.map(([, v]) => v))
      }),
    )
  })

  test('reads the multiple-datapoint example of RFC 8428, 5.1.3', () => {
    const pack = `[{"bn":"urn:dev:ow:10e2073a0108006:","bt":1.276020076001e+09,"bu":"A","bver":5,"n":"current","t":-5,"v":1.2},
      {"n":"current","t":-4,"v":1.3},{"n":"current","t":-3,"v":1.4},{"n":"current","t":-2,"v":1.5},
      {"n":"current","t":-1,"v":1.6},{"n":"current","v":1.7}]`
    expect(readSamples(pack)).toMatchObject({
      kind: 'samples',
      at: '2010-06-08T18:01:11.001Z',
      value: [1.2, 1.3, 1.4, 1.5, 1.6, 1.7],
    })
  })

  test.each([
    ['', /first line/],
    ['a,b\n1,2\n', /first line/],
    ['s,v\n1,2\n', /two samples/],
    ['s,v\n1,2\nx,3\n', /line 3.*no time/],
    ['s,v\n1,2\n2,wet\n', /line 3.*no number/],
    ['s,v\n2,2\n1,3\n', /do not rise/],
    ['[{"n":"a","v":1},{"n":"b","v":2}]', /2 signals/],
    ['[{', /not JSON/],
  ])('refuses %j with the reason', (text, why) => {
    expect(readSamples(text)).toMatchObject({ kind: 'none', reason: expect.stringMatching(why) })
  })
})

test('a trimmed trace keeps its moments and its marks', () => {
  const t: Trace = {
    name: 't',
    at: '2026-11-24T10:00:00.000Z',
    unit: 'm',
    source: 'import',
    s: [0, 1, 2, 3, 4],
    value: [0, 1, null, 3, 4],
    marks: [
      { from: 0.5, to: 2.5, word: 'a' },
      { from: 3.5, to: 4, word: 'b' },
    ],
  }
  expect(trimmed(t, 1, 3)).toMatchObject({
    at: '2026-11-24T10:00:01.000Z',
    s: [0, 1, 2],
    value: [1, null, 3],
    marks: [{ from: 0, to: 1.5, word: 'a' }],
  })
  expect(trimmed(t, 5, 9)).toBeNull()
})

test('drawn with fewer points no spike, no dip and no gap is lost', () => {
  const values = fc.array(fc.option(fc.double({ min: -1, max: 1, noNaN: true }), { freq: 30 }), {
    minLength: 50,
    maxLength: 400,
  })
  fc.assert(
    fc.property(values, fc.nat(399), (list, at) => {
      const spiked = list.map((v, i) => (i === at % list.length ? 50 : v))
      const kept = reducedIndices(spiked, 60)
      expect(kept.length).toBeLessThanOrEqual(63)
      expect(kept).toContain(at % list.length)
      expect(kept).toEqual([...kept].sort((a, b) => a - b))
      expect(kept.some((i) => spiked[i] === null)).toBe(spiked.includes(null))
    }),
  )
})

test('a moment is found among rising times as a walk finds it', () => {
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: 0, max: 50 }), { maxLength: 40 }),
      fc.integer({ min: -1, max: 51 }),
      (all, at) => {
        const s = all.sort((a, b) => a - b)
        const walked = s.findIndex((x) => x >= at)
        expect(firstAtOrAfter(s, at)).toBe(walked < 0 ? s.length : walked)
      },
    ),
  )
})

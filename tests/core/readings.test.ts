import { rawOf } from '../../src/core/calibration/rawOf'
import { goneAfterS, isLate } from '../../src/core/publish/staleness'
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { chainStep, type ChainSettings, startChain } from '../../src/core/conditioning/chain'
import { debounceStep, startDebounce } from '../../src/core/conditioning/debounce'
import { median } from '../../src/core/conditioning/median'
import { soundSpeed } from '../../src/core/conditioning/soundSpeed'
import { HUES, nextHue, nextTag } from '../../src/core/palette/palette'

test('speed of sound in dry air at tabled temperatures, m/s', () => {
  for (const [c, v] of [
    [-10, 325.4],
    [0, 331.3],
    [10, 337.3],
    [20, 343.2],
    [30, 349.0],
  ] as const)
    expect(soundSpeed(c)).toBeCloseTo(v, 0)
})

const plain: ChainSettings = { min: 0.02, max: 4, median: 1, averageS: 0, mountM: null, gain: 1, offset: 0 }

describe('chain', () => {
  test('the median is the middle of what was read, whatever the order', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: -1e3, max: 1e3, noNaN: true }), { minLength: 1, maxLength: 9 }),
        (values) => {
          const m = median(values)
          expect(values).toContain(m)
          expect(values.filter((v) => v < m).length).toBeLessThanOrEqual((values.length - 1) / 2)
          expect(values.filter((v) => v > m).length).toBeLessThanOrEqual(values.length / 2)
        },
      ),
    )
    expect(() => median([])).toThrow(RangeError)
  })

  test('a single spike does not pass a median of five', () => {
    let state = startChain()
    const out = [0.5, 0.5, 0.5, 3.9, 0.5, 0.5].map((r) => {
      const step = chainStep({ ...plain, median: 5 }, state, r, 0.25)
      state = step.state
      return step.value
    })
    expect(out).toEqual([0.5, 0.5, 0.5, 0.5, 0.5, 0.5])
  })

  test('the average reaches 1 − 1/e of a step after its time constant', () => {
    let state = chainStep({ ...plain, averageS: 10 }, startChain(), 1, 0).state
    let value: number | null = null
    for (let t = 0; t < 1000; t++) ({ state, value } = chainStep({ ...plain, averageS: 10 }, state, 2, 0.01))
    expect(value).toBeCloseTo(2 - Math.exp(-1), 3)
  })

  test('geometry comes before calibration: level = mount − distance, then gain and offset', () => {
    expect(chainStep({ ...plain, mountM: 0.9, gain: 1.02, offset: 0.003 }, startChain(), 0.4, 0).value).toBeCloseTo(
      0.5 * 1.02 + 0.003,
      12,
    )
  })

  test('no answer or a reading outside the range is unknown, and forgets what was before', () => {
    const settings = { ...plain, median: 5, averageS: 60 }
    const before = chainStep(settings, startChain(), 1, 0).state
    for (const bad of [null, 4.01, 0.019, NaN]) {
      const step = chainStep(settings, before, bad, 0.25)
      expect(step.value).toBeNull()
      expect(chainStep(settings, step.state, 2, 0.25).value).toBe(2)
    }
  })
})

test('debounce: a level counts once it has been stable, and bounces shorter than that never do', () => {
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 1, max: 23 }), { minLength: 1, maxLength: 30 }), (gaps) => {
      let state = startDebounce(false)
      let level = false
      let now = 0
      for (const gap of gaps) {
        level = !level
        now += gap
        state = debounceStep(state, level, now, 24)
        expect(state.stable).toBe(false)
      }
      const settled = debounceStep(debounceStep(state, true, now + 1, 24), true, now + 30, 24)
      expect(settled.stable).toBe(true)
    }),
  )
})

describe('palette', () => {
  const luminance = (hex: string) =>
    [1, 3, 5]
      .map((i) => parseInt(hex.slice(i, i + 2), 16) / 255)
      .map((c) => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4))
      .reduce((sum, c, i) => sum + c * ([0.2126, 0.7152, 0.0722][i] ?? 0), 0)
  const contrast = (a: string, b: string) => {
    const [dark = 0, light = 0] = [luminance(a), luminance(b)].sort((x, y) => x - y)
    return (light + 0.05) / (dark + 0.05)
  }
  test('every fill stands 4.5:1 on paper and under its white tag', () => {
    for (const hue of HUES)
      for (const ground of ['#f6f3ec', '#fbf9f4', '#ffffff']) expect(contrast(hue, ground)).toBeGreaterThanOrEqual(4.5)
  })
  test('hues are spread evenly and tags never repeat', () => {
    const used: number[] = []
    for (let i = 0; i < 20; i++) used.push(nextHue(used))
    for (let h = 0; h < HUES.length; h++) expect(used.filter((u) => u === h).length).toBeGreaterThanOrEqual(2)
    expect(nextTag('L', ['L1', 'L3', 'P2'])).toBe('L2')
    expect(
      nextTag(
        'L',
        Array.from({ length: 99 }, (_, i) => `L${i + 1}`),
      ),
    ).toBeNull()
  })
})

test('a published value leads back to what the part gave, in any unit', () => {
  // 250 mm published in cm with a gain of 1.02 and an offset of −3: (1.02 · 250 − 3) · 0.1 = 25.2.
  expect(rawOf(25.2, 0.1, { gain: 1.02, offset: -3 })).toBeCloseTo(250, 9)
  expect(rawOf(25.2, 1, { gain: 1, offset: 0 })).toBe(25.2)
})

test('a value is late after three intervals and five seconds; one that promises no interval never is', () => {
  expect([isLate(10, 35_000), isLate(10, 35_001), isLate(0, 1e12)]).toEqual([false, true, false])
  expect(goneAfterS(60)).toBe(90)
})

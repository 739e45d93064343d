import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { busPullLimits } from '../../src/core/calculations/busPullCalculation'
import { couplerState } from '../../src/core/calculations/couplerCalculation'
import { chooseFuse } from '../../src/core/calculations/fuseCalculation'
import { regulatorRiseK } from '../../src/core/calculations/regulatorCalculation'
import { offersOf, type SumId, CALCULATIONS } from '../../src/core/calculations/calculations'
import { baseOhm } from '../../src/core/calculations/transistorCalculation'
import { ampacityA, wireDropV } from '../../src/core/calculations/wireCalculation'
import { writeBack } from '../../src/core/calculations/writeBack'
import { runChecks } from '../../src/core/checks/runChecks'
import { applyAll } from '../../src/core/alternatives/remedies'
import { E12, E24, E96, nearestIn } from '../../src/core/units/eSeries'
import { farads } from '../../src/core/units/format'
import { scaleDivider } from '../../src/core/wiring/divider'
import { after, blank, catalog, slipTank } from '../support/designs'

describe('preferred values', () => {
  test('E12 is every other value of E24, E96 has the values printed in tables', () => {
    expect(E12).toEqual([1, 1.2, 1.5, 1.8, 2.2, 2.7, 3.3, 3.9, 4.7, 5.6, 6.8, 8.2])
    expect(E96).toHaveLength(96)
    for (const v of [1, 1.02, 1.33, 1.47, 2.05, 2.49, 3.01, 3.32, 4.02, 4.99, 6.04, 7.5, 8.06, 9.09, 9.76])
      expect(E96).toContain(v)
    expect(nearestIn('E24', 175, 'up')).toBe(180)
    expect(nearestIn('E24', 4660, 'down')).toBe(4300)
    expect(nearestIn('E12', 4.4e-4, 'up')).toBeCloseTo(4.7e-4, 12)
  })

  test('the nearest value is never further than half a step of its series', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 1e-9, max: 1e7, noNaN: true }),
        fc.constantFrom('E12', 'E24', 'E96'),
        (wanted, series) => {
          // The widest step of each as printed: 1.2 to 1.5, 1.3 to 1.5, and about 1.025 everywhere.
          const step = { E12: 1.5 / 1.2, E24: 1.5 / 1.3, E96: 1.026 }[series]
          expect(Math.abs(Math.log(nearestIn(series, wanted) / wanted))).toBeLessThanOrEqual(Math.log(step) / 2 + 0.01)
          expect(nearestIn(series, wanted, 'up')).toBeGreaterThanOrEqual(wanted * (1 - 1e-8))
          expect(nearestIn(series, wanted, 'down')).toBeLessThanOrEqual(wanted * (1 + 1e-8))
        },
      ),
    )
    for (const v of E24) expect(nearestIn('E24', v * 1000)).toBe(v * 1000)
  })
})

test('capacitors are written as they are sold, and read back to the same value', () => {
  expect([farads(0.0015), farads(4.7e-4), farads(1e-6), farads(1e-7), farads(2.2e-11)]).toEqual([
    '1500 µF',
    '470 µF',
    '1 µF',
    '100 nF',
    '22 pF',
  ])
  const scale: Record<string, number> = { µF: 1e-6, nF: 1e-9, pF: 1e-12 }
  for (const decade of [1e-12, 1e-10, 1e-8, 1e-6, 1e-4]) {
    for (const v of E12) {
      const [number = '', unit = ''] = farads(v * decade).split(' ')
      expect(Number(number) * (scale[unit] ?? NaN)).toBeCloseTo(v * decade, 15)
    }
  }
})

describe('formulas against figures worked out elsewhere', () => {
  test('the bus specification’s own example: 400 pF at 3.3 V gives 2.95 kΩ at 100 kHz and 885 Ω at 400 kHz, at least 967 Ω', () => {
    expect(busPullLimits(3.3, 1000e-9, 400e-12).maxOhm).toBeCloseTo(2950.5, 0)
    expect(busPullLimits(3.3, 300e-9, 400e-12).maxOhm).toBeCloseTo(885.2, 0)
    expect(busPullLimits(3.3, 1000e-9, 400e-12).minOhm).toBeCloseTo(966.7, 1)
  })
  test('copper: 1 mm² over 10 m there and back is 0.35 Ω at 20 °C; resistance rises 3.9 % over 10 K', () => {
    expect(wireDropV(10, 1, 1, 20)).toBeCloseTo(0.35, 9)
    expect(wireDropV(10, 1, 1, 30) / wireDropV(10, 1, 1, 20)).toBeCloseTo(1.039, 9)
  })
  test('transistor, coupler, regulator, fuse', () => {
    // (3.2 − 0.8) V · 15 / 71 mA
    expect(baseOhm(3.2, 0.071, 15)).toBeCloseTo(507.04, 2)
    expect(
      couplerState({ minV: 10.5, maxV: 14.4, seriesOhm: 2200, tolerance: 0.05, supplyV: 3.4, pullOhm: 30_000 }),
    ).toMatchObject({
      leastA: expect.closeTo(9.3 / 2310, 9),
      mostA: expect.closeTo(13.2 / 2090, 9),
      neededA: expect.closeTo(3.4 / 30_000, 9),
    })
    expect(regulatorRiseK(5, 3.3, 0.2, 90)).toBeCloseTo(30.6, 9)
    expect(chooseFuse(0.5, 0.5)).toBe(0.63)
    expect(chooseFuse(4, 0.5)).toBeNull()
    expect(ampacityA(0.5)).toBe(3)
  })
  test('a divider for a converter never passes its end, whatever the resistors’ tolerance', () => {
    fc.assert(
      fc.property(fc.double({ min: 2, max: 15, noNaN: true }), fc.constantFrom(2.45, 3.1, 3.3), (maxV, fullV) => {
        const pair = scaleDivider(maxV, fullV)
        if (maxV <= fullV) return void expect(pair).toBeNull()
        if (!pair) throw new Error('no pair')
        expect((maxV * pair.bottomOhm * 1.01) / (pair.topOhm * 0.99 + pair.bottomOhm * 1.01)).toBeLessThanOrEqual(
          fullV + 1e-9,
        )
        expect(1 / (1 / pair.topOhm + 1 / pair.bottomOhm)).toBeLessThanOrEqual(5000)
      }),
    )
  })
})

describe('sums', () => {
  test('of any values within their fields answer with finite steps and a verdict, and offer what can be bought', () => {
    for (const [id, sum] of Object.entries(CALCULATIONS)) {
      const values = fc
        .tuple(...sum.fields.map((f) => fc.double({ min: Math.max(f.min, 1e-12), max: f.max, noNaN: true })))
        .map((list) => Object.fromEntries(sum.fields.map((f, i) => [f.id, list[i] ?? 0])))
      fc.assert(
        fc.property(values, (v) => {
          const bounded = id === 'ladder' ? { ...v, keys: Math.min(8, Math.max(1, Math.round(v.keys ?? 1))) } : v
          const answer = sum.solve(bounded)
          expect(answer.steps.map((s) => s.result).join(' '), id).not.toMatch(/NaN|undefined/)
          expect(answer.words).not.toBe('')
          for (const o of offersOf(id as SumId, bounded)) expect(o.value).toBeGreaterThan(0)
        }),
        { numRuns: id === 'ladder' ? 10 : 60 },
      )
    }
  })

  test('what a finding opens with agrees with its rule: with an offer that is fine put in, the finding is gone', () => {
    const designs = [
      slipTank(),
      after(blank('board-32-30'), { kind: 'add-part', partId: 'lamp', part: 'led-bare', label: 'Lamp', signals: [] }),
      after(
        blank('board-32-30'),
        { kind: 'add-part', partId: 'cc', part: 'climate-i2c-two', label: 'Climate', signals: [] },
        { kind: 'place-part', partId: 'cc', set: { cableM: 1.5 } },
      ),
      after(
        blank('board-32-30'),
        { kind: 'add-part', partId: 'supply', part: 'supply-12v', label: 'Supply', signals: [] },
        { kind: 'add-part', partId: 'strip', part: 'strip-two-white', label: 'Strip', signals: [] },
        { kind: 'place-part', partId: 'strip', set: { cableM: 8 } },
      ),
      after(
        blank('board-32-30'),
        { kind: 'add-part', partId: 'cell', part: 'cell-18650', label: 'Cell', signals: [] },
        { kind: 'feed-board', rail: 'cell.p' },
      ),
      after(blank('board-32-30'), { kind: 'add-part', partId: 'loop', part: 'loop-12v', label: 'Loop', signals: [] }),
    ]
    const tried = new Set<string>()
    for (const design of designs) {
      for (const f of runChecks(design, catalog)) {
        if (!f.calculation) continue
        for (const offer of offersOf(f.calculation.id, f.calculation.given).filter((o) => o.answer.ok)) {
          const edits = writeBack(design, f.calculation, { ...f.calculation.given, value: offer.value })
          if (edits.length === 0) continue
          const mended = applyAll(design, edits, catalog)
          if (!mended) throw new Error(`${f.rule}: ${offer.text} cannot be put in`)
          expect(
            runChecks(mended, catalog)
              .filter((g) => g.key === f.key)
              .map((g) => g.sentence),
            `${f.rule} ${offer.text}`,
          ).toEqual([])
          tried.add(f.rule)
        }
      }
    }
    expect([...tried].sort()).toEqual([
      'bus-edges',
      'floating-input',
      'fuse-missing',
      'input-over-maximum',
      'lamp-without-resistor',
      'wire-drop',
    ])
  })
})

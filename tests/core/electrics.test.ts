import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import type { Catalog } from '../../src/core/catalog/catalog'
import { partKindSchema } from '../../src/core/catalog/part'
import { runChecks } from '../../src/core/checks/runChecks'
import { derive } from '../../src/core/derive/derive'
import { engineering, fixed } from '../../src/core/units/format'
import { E24 } from '../../src/core/units/eSeries'
import { chooseDivider, dividerLevels } from '../../src/core/wiring/divider'
import { after, catalog, slipTank } from '../support/designs'

test('E24 is the rounded geometric series of IEC 60063, but for the nine values the standard sets by hand', () => {
  const byHand = new Set([2.7, 3.0, 3.3, 3.6, 3.9, 4.3, 4.7, 8.2])
  E24.forEach((v, i) => {
    if (!byHand.has(v)) expect(v).toBe(Math.round(10 * 10 ** (i / 24)) / 10)
  })
})

test('numbers are written with prefix and sign', () => {
  expect([
    engineering(4700, 'Ω'),
    engineering(0.0153, 'A'),
    engineering(3.09e-8, 's'),
    engineering(999.9, 'm', 3),
  ]).toEqual(['4.7 kΩ', '15.3 mA', '30.9 ns', '1 km'])
  expect([fixed(-3.14159, 2), fixed(-0.001, 1)]).toEqual(['−3.14', '0.0'])
})

describe('divider at the ends of its tolerances', () => {
  // 5.25·3333/(1782+3333) and 4.5·3267/(1818+3267), worked on paper.
  test('1.8 kΩ over 3.3 kΩ, 1 %, from 4.5 … 5.25 V: 2.89 … 3.42 V', () => {
    const levels = dividerLevels({
      minV: 4.5,
      maxV: 5.25,
      topOhm: 1800,
      bottomOhm: 3300,
      tolerance: 0.01,
      capacitanceF: 1e-11,
    })
    expect(levels.highestV).toBeCloseTo(3.421, 4)
    expect(levels.lowestV).toBeCloseTo(2.89115, 4)
    expect(levels.edgeS).toBeCloseTo(2.2 * 1164.7e-11, 11)
    expect(levels.sourceA).toBeCloseTo(5.25 / 5100, 9)
  })

  test('no sample within the tolerances leaves the stated span', () => {
    const part = fc.double({ min: -1, max: 1, noNaN: true })
    fc.assert(
      fc.property(
        fc.integer({ min: 100, max: 1e5 }),
        fc.integer({ min: 100, max: 1e5 }),
        fc.double({ min: 0, max: 0.1, noNaN: true }),
        part,
        part,
        fc.double({ min: 0, max: 1, noNaN: true }),
        (top, bottom, tolerance, a, b, v) => {
          const l = dividerLevels({ minV: 4, maxV: 6, topOhm: top, bottomOhm: bottom, tolerance, capacitanceF: 0 })
          const r1 = top * (1 + a * tolerance)
          const r2 = bottom * (1 + b * tolerance)
          const out = (4 + 2 * v) / (1 + r1 / r2)
          expect(out).toBeLessThanOrEqual(l.highestV * (1 + 1e-12))
          expect(out).toBeGreaterThanOrEqual(l.lowestV * (1 - 1e-12))
        },
      ),
    )
  })

  test('the chosen pair keeps both limits, and no other E24 pair has more margin', () => {
    const wish = {
      minV: 4.275,
      maxV: 5.25,
      limitV: 3.6,
      readsHighV: 2.55,
      maxSourceA: 0.002,
      tolerance: 0.01,
      capacitanceF: 1e-11,
    }
    const chosen = chooseDivider(wish)
    if (!chosen) throw new Error('no divider')
    const margin = (top: number, bottom: number) => {
      const high = 5.25 / (1 + (top * 0.99) / (bottom * 1.01))
      const low = 4.275 / (1 + (top * 1.01) / (bottom * 0.99))
      return 5.25 / (top + bottom) > 0.002 ? -1 : Math.min((3.6 - high) / 3.6, (low - 2.55) / 2.55)
    }
    const best = Math.max(
      ...E24.flatMap((t) => E24.flatMap((b) => [margin(t * 1000, b * 1000), margin(t * 1000, 10_000)])),
    )
    expect(margin(chosen.topOhm, chosen.bottomOhm)).toBeCloseTo(best, 9)
    expect(best).toBeGreaterThan(0)
  })

  test('where no pair keeps both limits there is none', () => {
    expect(
      chooseDivider({
        minV: 2.6,
        maxV: 12,
        limitV: 3.6,
        readsHighV: 2.55,
        maxSourceA: 0.01,
        tolerance: 0.01,
        capacitanceF: 0,
      }),
    ).toBeNull()
  })
})

describe('rule input-over-maximum', () => {
  const rule = (design = slipTank(), from: Catalog = catalog) =>
    runChecks(design, from).filter((f) => f.rule === 'input-over-maximum')
  /** The ranger with another highest output, as a share of its supply of up to 5.0 V. */
  const withRatio = (highMaxRatio: number): Catalog => {
    const kind = structuredClone(catalog.parts['ranger-echo'])
    const echo = kind?.terminals.find((t) => t.id === 'echo')
    if (!kind || echo?.role !== 'line' || echo.output?.kind !== 'push-pull') throw new Error('no echo')
    echo.output.highMaxRatio = highMaxRatio
    return { ...catalog, parts: { ...catalog.parts, 'ranger-echo': partKindSchema.parse(kind) } }
  }

  test('a 5 V echo on a 3.3 V pin is a stop, with its working', () => {
    const [finding] = rule()
    expect(finding).toMatchObject({
      severity: 'stop',
      signalId: 'slevel',
      sentence: expect.stringMatching(/5\.00 V.*D34 stands 3\.60 V/),
    })
    expect(finding?.working?.steps[0]?.result).toBe('5.00 V')
  })

  test('the remedy is an edit that ends it, and inverting the edit brings it back', () => {
    const remedy = rule()[0]?.remedies[0]
    const mended = after(slipTank(), ...(remedy?.edits ?? []))
    expect(rule(mended)).toEqual([])
    const weak = after(slipTank(), {
      kind: 'add-component',
      componentId: 'weak',
      component: {
        type: 'divider',
        line: 'ranger.echo',
        names: ['R1', 'R2'],
        topOhm: 1000,
        bottomOhm: 9100,
        tolerance: 0.01,
      },
    })
    const changed = after(weak, ...(rule(weak)[0]?.remedies[0]?.edits ?? []))
    expect(rule(changed)).toEqual([])
    expect(Object.values(changed.added).filter((c) => c.type === 'divider')).toHaveLength(1)
  })

  test('boundary: 3.60 V exactly is allowed, a hair above is not', () => {
    expect(rule(slipTank(), withRatio(3.6 / 5))).toEqual([])
    expect(rule(slipTank(), withRatio(3.601 / 5))).toHaveLength(1)
  })
})

test('the other rules: trigger, silence, remedy', () => {
  const of = (id: string, design = slipTank()) => runChecks(design, catalog).filter((f) => f.rule === id)
  const bare = after(slipTank(), { kind: 'remove-component', componentId: 'puprobedata' })
  expect(of('outside-pull-missing')).toEqual([])
  expect(of('outside-pull-missing', bare)[0]?.sentence).toContain('4.7 kΩ')
  expect(
    of('outside-pull-missing', after(bare, ...(of('outside-pull-missing', bare)[0]?.remedies[0]?.edits ?? []))),
  ).toEqual([])

  // The pump is in the design: its own caution stands for the relay’s as well.
  expect(of('caution').map((f) => [f.partId, /weld shut/.test(f.caution?.text ?? '')])).toEqual([['pump', true]])
  expect(
    of(
      'caution',
      after(slipTank(), { kind: 'set-part', partId: 'pumprelay', setting: 'load', value: 'lamp up to 24 V' }),
    ).map((f) => f.partId),
  ).toEqual(['pump'])
  const key = of('caution').find((f) => f.partId === 'pump')?.key ?? ''
  expect(derive(slipTank(), catalog, new Set([key])).findings.map((f) => f.key)).not.toContain(key)

  expect(of('not-calibrated').map((f) => f.signalId)).toEqual(['slevel', 'swater'])
  const open = { ...slipTank(), plan: { pins: {}, basis: '' } }
  expect(of('line-without-pin', open)).toHaveLength(6)
  expect(of('line-without-pin', after(open, ...(of('line-without-pin', open)[0]?.remedies[0]?.edits ?? [])))).toEqual(
    [],
  )
})

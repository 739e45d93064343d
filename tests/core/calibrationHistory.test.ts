import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { fit } from '../../src/core/calibration/fit'
import { checkAgainst, drifts, type KeptCalibration, monthsOn } from '../../src/core/calibration/history'
import { seeded } from '../support/randomDesigns'

const line = (at: string, gain: number, offset: number, u95: number | null = 0.1): KeptCalibration => ({
  id: at,
  at,
  initials: 'm',
  reference: 'ice',
  points: 3,
  made: { model: 'line', gain, offset, curve: null, span: { min: 0, max: 40 }, u95 },
  check: null,
})

describe('drift of a part over its calibrations', () => {
  test('by hand: half a kelvin at 20 °C in half a year is one a year', () => {
    const kept = [line('2026-07-02T00:00:00Z', 1.01, 0.3), line('2026-01-01T00:00:00Z', 1, 0)]
    const [d] = drifts(kept)
    expect(d).toMatchObject({ from: '2026-01-01T00:00:00Z', at: 20, days: 182, real: true })
    expect(d?.shift).toBeCloseTo(0.5, 12)
    expect(d?.perYear).toBeCloseTo((0.5 * 365.25) / 182, 12)
  })
  test('within what both are known to it is no drift, without an estimate nobody says', () => {
    expect(drifts([line('2026-01-01T00:00:00Z', 1, 0, 0.3), line('2026-02-01T00:00:00Z', 1, 0.4, 0.3)])[0]?.real).toBe(
      false,
    )
    expect(drifts([line('2026-01-01T00:00:00Z', 1, 0, null), line('2026-01-03T00:00:00Z', 1, 9)])[0]).toMatchObject({
      real: null,
      perYear: null,
    })
  })
  test('checks do not count, and they have no order to come in', () => {
    const check = { ...line('2026-03-01T00:00:00Z', 1, 0), made: null, check: { worst: 0, allowed: 1, holds: true } }
    const three = [
      line('2026-01-01T00:00:00Z', 1, 0),
      check,
      line('2026-06-01T00:00:00Z', 1, 1),
      line('2026-04-01T00:00:00Z', 1, 3),
    ]
    expect(drifts(three).map((d) => d.shift)).toEqual([3, -2])
  })
})

describe('whether a calibration still holds', () => {
  /** Thousand parts calibrated at five points and checked at three, with a reference and readings that scatter. */
  const share = (offBy: number) => {
    const random = seeded(7)
    const normal = () => Math.sqrt(-2 * Math.log(random() || 1e-12)) * Math.cos(2 * Math.PI * random())
    let held = 0
    for (let i = 0; i < 1000; i++) {
      const pair = (raw: number, off: number) => ({ raw: raw + 0.05 * normal(), reference: raw + off, scatter: 0.05 })
      const made = fit(
        'line',
        [0, 10, 20, 30, 40].map((x) => pair(x, 0)),
      )
      if (made.kind === 'none') throw new Error(made.reason)
      const seen = checkAgainst(made, made.expanded95(20), [pair(20, offBy)], 0)
      if (seen.holds) held++
    }
    return held / 1000
  }
  test('what has not moved is held for good nearly always, what has moved by ten scatters hardly ever', () => {
    expect(share(0)).toBeGreaterThan(0.95)
    expect(share(0.5)).toBeLessThan(0.05)
  })
  test('the pair that is furthest out for what it is worth decides; with nothing stated nobody judges', () => {
    const as = { gain: 1, offset: 0, curve: null }
    const pairs = [
      { raw: 10, reference: 10.5, u: 1 },
      { raw: 20, reference: 20.3, u: 0.1 },
    ]
    expect(checkAgainst(as, 0, pairs, 0)).toMatchObject({ allowed: 0.2, holds: false })
    expect(checkAgainst(as, 0, pairs, 0.5)).toMatchObject({ holds: true })
    expect(checkAgainst(as, null, [{ raw: 1, reference: 2 }], 0)).toMatchObject({
      worst: 1,
      allowed: null,
      holds: null,
    })
  })
})

test('months on end on the same day, or on the last there is', () => {
  expect(monthsOn('2026-01-31', 1)).toBe('2026-02-28')
  expect(monthsOn('2027-12-15', 14)).toBe('2029-02-15')
  fc.assert(
    fc.property(
      fc.date({ min: new Date('2000-01-01'), max: new Date('2090-01-01'), noInvalidDate: true }),
      fc.nat(240),
      (d, n) => {
        const day = d.toISOString().slice(0, 10)
        const on = monthsOn(day, n)
        const months = (x: string) => Number(x.slice(0, 4)) * 12 + Number(x.slice(5, 7))
        expect(months(on) - months(day)).toBe(n)
        expect(Number(on.slice(8))).toBeLessThanOrEqual(Number(day.slice(8)))
      },
    ),
  )
})

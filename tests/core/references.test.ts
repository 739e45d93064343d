import fc from 'fast-check'
import { expect, test } from 'vitest'
import { boilingC, pressureAt } from '../../src/core/references/boiling'
import { calendarFile } from '../../src/core/references/calendar'
import { RECIPES } from '../../src/core/references/recipes'
import { saltHumidity, type SaltName } from '../../src/core/references/salts'

test('water boils where the steam tables say', () => {
  // Verification values of IAPWS-IF97, table 36, K; and 100 °C at 1014.18 hPa.
  for (const [mPa, kelvin] of [
    [0.1, 372.755919],
    [1, 453.035632],
    [10, 584.149488],
  ] as const)
    expect(boilingC(mPa * 10_000) + 273.15).toBeCloseTo(kelvin, 6)
  expect(boilingC(1013.25)).toBeCloseTo(99.974, 3)
  // Standard atmosphere, ISO 2533, geopotential heights: 1000 m 898.75 hPa, 3000 m 701.09 hPa.
  expect(pressureAt(1000)).toBeCloseTo(898.75, 1)
  expect(pressureAt(3000)).toBeCloseTo(701.09, 1)
})

test('salt jars at the table’s temperatures', () => {
  // Greenspan 1977, table 2: %RH at 20, 25 and 30 °C.
  const table: [SaltName, number, number, number][] = [
    ['licl', 11.31, 11.3, 11.28],
    ['mgcl2', 33.07, 32.78, 32.44],
    ['k2co3', 43.16, 43.16, 43.17],
    ['mgno32', 54.38, 52.89, 51.4],
    ['nacl', 75.47, 75.29, 75.09],
    ['kcl', 85.11, 84.34, 83.62],
    ['k2so4', 97.59, 97.3, 97.0],
  ]
  for (const [salt, ...values] of table)
    for (const [i, celsius] of [20, 25, 30].entries())
      expect(Math.abs((saltHumidity(salt, celsius) ?? 0) - (values[i] ?? 0)), `${salt} at ${celsius}`).toBeLessThan(
        0.04,
      )
  expect(saltHumidity('nacl', 60)).toBeNull()
  expect(saltHumidity('k2co3', 35)).toBeNull()
})

test('every recipe says a value, how long to wait and what to do; a value far out says nothing', () => {
  for (const r of RECIPES) {
    const value = r.value(r.asks?.usual ?? 0)
    expect(value).not.toBeNull()
    expect(r.waitMinutes).toBeGreaterThan(0)
    expect(r.u).toBeGreaterThan(0)
    expect(r.how.length).toBeGreaterThan(1)
    if (r.asks) expect(r.value(1e6)).toBeNull()
  }
})

test('a reminder is a calendar file whose lines are short and say it whole', () => {
  fc.assert(
    fc.property(fc.string({ maxLength: 200, unit: 'grapheme' }), (text) => {
      const said = text.replace(/[\r\n]+/g, ' ')
      const file = calendarFile({ id: 'a', at: new Date('2026-11-28T08:00:00Z'), title: said, text: said }, new Date(0))
      for (const line of file.split('\r\n')) expect(Buffer.byteLength(line)).toBeLessThanOrEqual(75)
      const whole = file.replace(/\r\n /g, '')
      const summary = /^SUMMARY:(.*)$/m.exec(whole.replaceAll('\r\n', '\n'))?.[1] ?? ''
      expect(summary.replace(/\\([\\;,])/g, '$1')).toBe(said)
    }),
  )
  const file = calendarFile({ id: 'a', at: new Date('2026-11-28T08:00:00Z'), title: 'Look', text: 'a, b' }, new Date(0))
  expect(file).toMatch(
    /^BEGIN:VCALENDAR\r\nVERSION:2\.0\r\n[\s\S]*DTSTART:20261128T080000Z\r\n[\s\S]*DESCRIPTION:a\\, b\r\n[\s\S]*END:VCALENDAR\r\n$/,
  )
})

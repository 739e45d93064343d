import fc from 'fast-check'
import { expect, test } from 'vitest'
import { settlesInS } from '../../src/core/calibration/settling'

const coming = (tauS: number, from: number, to: number, lastS: number, stepS = 0.5) =>
  Array.from({ length: Math.floor(lastS / stepS) + 1 }, (_, i) => ({
    at: i * stepS * 1000,
    value: to + (from - to) * Math.exp((-i * stepS) / tauS),
  }))

test('a first-order rest is foreseen by what it then does, within a tenth', () => {
  fc.assert(
    fc.property(
      fc.double({ min: 4, max: 200, noNaN: true }),
      fc.double({ min: -30, max: 60, noNaN: true }),
      fc.double({ min: 1, max: 2.5, noNaN: true }),
      (tau, to, taus) => {
        const near = 0.05
        const lastS = Math.max(15.5, tau * taus)
        const said = settlesInS(coming(tau, to + 20, to, lastS), near)
        // When it really is that near: 20 · e^(−t/τ) = near.
        const left = Math.max(0, tau * Math.log(20 / near) - lastS)
        if (left < 2) return
        expect(said).not.toBeNull()
        expect(Math.abs((said ?? 0) - left)).toBeLessThan(0.1 * left + 1)
      },
    ),
  )
})
test('at rest it is there; a ramp comes to no rest; two readings say nothing', () => {
  expect(settlesInS(coming(1, 20, 20, 60), 0.05)).toBe(0)
  const ramp = Array.from({ length: 200 }, (_, i) => ({ at: i * 1000, value: i / 10 }))
  expect(settlesInS(ramp, 0.05)).toBeNull()
  expect(settlesInS(ramp.slice(0, 2), 0.05)).toBeNull()
})

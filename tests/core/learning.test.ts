import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { learnStates } from '../../src/core/calibration/learnStates'
import { normalTail } from '../../src/core/calibration/normalTail'
import { heardTogether, learntBounds } from '../../src/core/drivers/ladderShare'
import { catalog } from '../support/designs'
import { seeded } from '../support/randomDesigns'

describe('the tail of the normal distribution', () => {
  // Abramowitz and Stegun, table 26.1, and 26.2.
  test.each([
    [0, 0.5],
    [1, 0.158655253931457],
    [1.5, 0.0668072012688581],
    [2, 0.0227501319481792],
    [3, 0.00134989803163009],
    [5, 2.86651571879194e-7],
    [6, 9.86587645037698e-10],
  ])('beyond %f', (z, share) => {
    expect(normalTail(z) / share).toBeCloseTo(1, 10)
    expect(normalTail(-z)).toBeCloseTo(1 - share, 12)
  })
})

describe('words learnt from what the reading was', () => {
  test('the cut lies where both are as sure; by hand', () => {
    const got = learnStates(
      [
        { word: 'wet', mean: 40, sd: 3 },
        { word: 'dry', mean: 10, sd: 1 },
      ],
      0.1,
    )
    expect(got).toMatchObject({ words: ['dry', 'wet'], cuts: [17.5] })
  })
  test('with noise as it was learnt each word is read nearly always, and the state does not flutter at rest', () => {
    const random = seeded(11)
    const normal = () => Math.sqrt(-2 * Math.log(random() || 1e-12)) * Math.cos(2 * Math.PI * random())
    fc.assert(
      fc.property(
        fc.double({ min: 0.5, max: 5, noNaN: true }),
        fc.double({ min: 0.5, max: 5, noNaN: true }),
        fc.double({ min: 7, max: 40, noNaN: true }),
        (a, b, apart) => {
          const [low, high] = [0, apart * (a + b) * 0.5]
          const got = learnStates(
            [
              { word: 'low', mean: low, sd: a },
              { word: 'high', mean: high, sd: b },
            ],
            1e-3,
          )
          if (got.kind === 'none') throw new Error(got.reason)
          const [cut = 0] = got.cuts
          // Each word is reached and kept through its noise, from either side of the band.
          expect(cut - got.band / 2 - low).toBeGreaterThanOrEqual(3 * a - 1e-9)
          expect(high - cut - got.band / 2).toBeGreaterThanOrEqual(3 * b - 1e-9)
          let beyond = 0
          for (let i = 0; i < 2000; i++) if (low + a * normal() > cut) beyond++
          expect(beyond / 2000).toBeLessThan(5 * normalTail(3) + 2e-3)
        },
      ),
      { numRuns: 30 },
    )
  })
  test('what lies too close is refused with how often it would be wrong', () => {
    expect(
      learnStates(
        [
          { word: 'a', mean: 1, sd: 1 },
          { word: 'b', mean: 3, sd: 1 },
        ],
        0,
      ),
    ).toEqual({
      kind: 'none',
      reason: '“a” and “b” are too close: 16 % of readings would be taken for the other',
    })
    expect(learnStates([{ word: 'a', mean: 1, sd: 1 }], 0).kind).toBe('none')
  })
})

test('keys of a ladder that were heard: every share is told for its own key, the open line for none', () => {
  const board = catalog.boards['board-32-30']
  if (!board) throw new Error('board')
  const shares = fc
    .uniqueArray(fc.integer({ min: 0, max: 90 }), { minLength: 2, maxLength: 8 })
    .map((all) => all.map((x) => x / 100))
  fc.assert(
    fc.property(shares, fc.double({ min: -0.004, max: 0.004, noNaN: true }), (all, off) => {
      const bounds = all.map((own) => learntBounds(board, all.length, all, own))
      const held = (share: number) => bounds.flatMap((b, i) => (b.lowShare <= share && share < b.highShare ? [i] : []))
      for (const [i, share] of all.entries()) expect(held(share + off)).toEqual([i])
      expect(held(0.9999)).toEqual([])
    }),
  )
})

test('a key that has not been heard stands in nobody’s way, not even at the foot of the line', () => {
  expect(heardTogether(-0.01, 0)).toBe(false)
  expect(heardTogether(0, 0.01)).toBe(true)
  expect(heardTogether(0.3, 0.33)).toBe(false)
})

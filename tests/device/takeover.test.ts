import { expect, test } from 'vitest'
import { twoGateways } from '../support/twoGateways'

// Two gateways that both hear most of what is sent, without the product: who speaks, and what a cut costs.
const { play, endOfAState } = await twoGateways()

test('without cuts no burst that somebody heard is lost, and none is told twice', () => {
  const { heard, lost, doubled, retold } = play({ bursts: 600, seed: 3, cuts: 0, hears: [0.9, 0.8] })
  expect(heard).toBeGreaterThan(550)
  expect([lost, doubled, retold]).toEqual([0, 0, 0])
}, 60_000)

test('who hears better takes over by claim: where the first hears hardly anything, the second speaks', () => {
  const { lost, doubled, claims } = play({ bursts: 600, seed: 4, cuts: 0, hears: [0.2, 0.95] })
  expect([lost, doubled]).toEqual([0, 0])
  expect(claims).toBeGreaterThan(24)
}, 60_000)

test('each cut of a link costs one burst at most', () => {
  const cuts = 12
  const { lost, doubled } = play({ bursts: 900, seed: 5, cuts, hears: [0.9, 0.85] })
  expect(lost + doubled).toBeLessThanOrEqual(cuts)
}, 60_000)

test('a door that was opened is not open for ever: whoever is there says that nobody knows, and who was away when it ended', () => {
  expect(endOfAState([], [])).toEqual(['true', 'null'])
  // The one that speaks for it is gone for good; the other has heard it too.
  expect(endOfAState(['one'], [])).toEqual(['true', 'null'])
  // Neither was there when it ended; one comes back.
  expect(endOfAState(['one', 'two'], [])).toEqual(['true', 'true'])
  expect(endOfAState(['one', 'two'], ['two'])).toEqual(['true', 'null'])
})

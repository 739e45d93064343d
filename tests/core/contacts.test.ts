import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { contactReport, leakThatReadsOn, type Movement, takenBy } from '../../src/core/conditioning/contacts'
import { debounceStep, startDebounce } from '../../src/core/conditioning/debounce'

const movement = (gapsMs: readonly number[], atMs = 0, on = true): Movement => {
  let us = 0
  return { atMs, on, edgesUs: [0, ...gapsMs.map((g) => (us += g * 1000))] }
}

/** The debounce that runs on the node, asked four times a millisecond: the second opinion on every count here. */
function walked({ edgesUs }: Movement, debounceMs: number): number {
  let state = startDebounce(false)
  let [turns, level] = [0, false]
  const edges = edgesUs.map((us) => us / 1000)
  for (let ms = -1; ms < (edges.at(-1) ?? 0) + debounceMs + 5; ms += 0.25) {
    const now = edges.filter((e) => e <= ms).length % 2 === 1
    // Half a millisecond less, so that what lasts just as long as the time is taken whichever way the asking falls.
    state = debounceStep(state, now, ms, debounceMs - 0.5)
    if (state.stable !== level) {
      level = state.stable
      if (level) turns++
    }
  }
  return turns
}
const bouncing = fc.array(fc.integer({ min: 1, max: 12 }), { maxLength: 12 }).map((gaps) => movement(gaps))

describe('the smallest debounce', () => {
  test('by hand: a bounce of 1, 2, 3, 1 ms counts twice below 2 ms of coming back', () => {
    // On 1 ms, off 2 ms, on 3 ms, off 1 ms, on: with 1 ms the on of 1 is taken, the off of 2 takes it back.
    const m = movement([1, 2, 3, 1])
    expect(takenBy(m, 1).counts).toBeGreaterThan(1)
    expect(contactReport([m])).toMatchObject({ smallestMs: 2, delayMs: 5, bounceMs: 7, chatter: null, hum: false })
  })
  test('counts as the debounce of the node does, for any bounce and any time', () => {
    fc.assert(
      fc.property(bouncing, fc.integer({ min: 1, max: 20 }), (m, ms) => {
        expect(takenBy(m, ms).counts).toBe(walked(m, ms))
      }),
    )
  })
  test('what it proposes never counts twice on the node, and one millisecond less does', () => {
    fc.assert(
      fc.property(fc.array(bouncing, { minLength: 1, maxLength: 5 }), (all) => {
        const { smallestMs, swallowed } = contactReport(all)
        const odd = all.filter((m) => m.edgesUs.length % 2 === 1)
        if (smallestMs === null) return
        for (const m of odd) expect(walked(m, Math.max(1, smallestMs))).toBe(1)
        if (smallestMs > 1) expect(all.some((m) => walked(m, smallestMs - 1) > (odd.includes(m) ? 1 : 0))).toBe(true)
        expect(swallowed).toBe(0)
      }),
    )
  })
  test('a short touch stays one and is said to be swallowed where the contact needs more', () => {
    const touch = movement([30])
    const bad = movement([2, 45, 2])
    expect(contactReport([touch])).toMatchObject({ smallestMs: 0, swallowed: 0 })
    expect(takenBy(bad, 2).counts).toBe(2)
  })
})

describe('what is no bounce', () => {
  test('a half-pressed mat: many movements with short gaps, and how long it was off among them', () => {
    const at = [0, 300, 700, 1000, 1420, 1800]
    const mat = at.map((ms, i) => movement([], ms, i % 2 === 0))
    expect(contactReport(mat).chatter).toEqual({ movements: 6, lastsMs: 1800, longestOffMs: 420 })
    expect(contactReport(mat.map((m) => ({ ...m, atMs: m.atMs * 10 }))).chatter).toBeNull()
  })
  test('edges in step with the mains', () => {
    expect(contactReport([movement([10.1, 9.8, 10, 10.2, 9.9, 10, 10.1])]).hum).toBe(true)
    expect(contactReport([movement([6, 14, 6, 14, 6, 14, 6])]).hum).toBe(true)
    expect(contactReport([movement([1, 0.4, 3, 0.2, 2.2, 0.7, 1.1])]).hum).toBe(false)
  })
  test('a leak that reads as closed: by Ohm’s law the pin stands at the highest low', () => {
    const leak = leakThatReadsOn(45_000, 0.25)
    expect(leak).toBeCloseTo(15_000, 6)
    expect((3.3 * leak) / (leak + 45_000)).toBeCloseTo(0.25 * 3.3, 9)
  })
})

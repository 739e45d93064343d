import fc from 'fast-check'
import fs from 'node:fs'
import { describe, expect, test } from 'vitest'
import { carryBack } from '../../src/core/bringup/carryBack'
import { bringUpPlan } from '../../src/core/bringup/bringUpPlan'
import { type BringUpStep, STAGES } from '../../src/core/bringup/step'
import { healthTold, type Happened, NOTHING_YET, online, trialVerdict } from '../../src/core/bringup/trial'
import { judge } from '../../src/core/bringup/verdict'
import { watched } from '../../src/core/bringup/watched'
import { pinsOf } from '../../src/core/catalog/board'
import { meterNumber } from '../../src/core/units/meter'
import { designSchema } from '../../src/core/model/design'
import { after, catalog, slipTank } from '../support/designs'
import { latch } from '../support/trains'
import { randomDesign, seeded } from '../support/randomDesigns'

const demos = fs
  .readdirSync('demo/designs')
  .map((f) => designSchema.parse(JSON.parse(fs.readFileSync(`demo/designs/${f}`, 'utf8'))))
const planOf = (design: ReturnType<typeof slipTank>): BringUpStep[] => {
  const board = catalog.boards[design.board.id]
  if (!board) throw new Error('board')
  return bringUpPlan(design, board, catalog)
}
const stepOf = (steps: readonly BringUpStep[], key: string): BringUpStep => {
  const step = steps.find((s) => s.key === key)
  if (!step) throw new Error(`no ${key}: ${steps.map((s) => s.key).join(' ')}`)
  return step
}

const fail = (): never => {
  throw new Error('no board')
}

/** The tank with the divider its ranger needs: 5 V over 10 kΩ and 15 kΩ. */
const tank = slipTank()
const ranger = Object.entries(tank.parts).find(([, p]) => p.kind.startsWith('ranger'))?.[0] ?? ''
const divided = after(tank, {
  kind: 'add-component',
  componentId: 'divi',
  component: {
    type: 'divider',
    line: `${ranger}.echo`,
    topOhm: 10_000,
    bottomOhm: 15_000,
    tolerance: 0.01,
    names: ['R1', 'R2'],
  },
})
const divider = () => stepOf(planOf(divided), `divider:${ranger}.echo`)

describe('the plan', () => {
  test.each(demos.map((d) => [d.slug, d] as const))(
    'of %s goes stage by stage, says how and why, and names what may be wrong',
    (_, design) => {
      const steps = planOf(design)
      expect(new Set(steps.map((s) => s.key)).size).toBe(steps.length)
      expect(steps.map((s) => s.stage)).toEqual([...steps.map((s) => s.stage)].sort((a, b) => a - b))
      for (const s of steps) {
        expect(s.how.length, s.key).toBeGreaterThan(10)
        expect(s.why.length, s.key).toBeGreaterThan(10)
        if (s.stage > 1 || s.expect.kind === 'value') expect(s.causes.length, s.key).toBeGreaterThan(0)
        for (const c of s.causes) expect(c.tells.length, c.why).toBeGreaterThan(5)
        if (s.expect.kind === 'value') expect(s.expect.min, s.key).toBeLessThan(s.expect.max)
      }
      // Every signal is provoked or toggled, every output looked at for what it does without network and power.
      for (const [id, signal] of Object.entries(design.signals)) {
        const output =
          catalog.parts[design.parts[signal.partId]?.kind ?? '']?.channels.find((c) => c.id === signal.channel)
            ?.access === 'output'
        for (const key of output ? [`dry:${id}`, `load:${id}`, `power:${id}`, `alone:${id}`] : [`hand:${id}`])
          stepOf(steps, key)
      }
      expect(new Set(steps.map((s) => s.stage)).size).toBeGreaterThan(STAGES.length - 3)
    },
  )
  test('work on what moves or hangs on the mains is behind a caution', () => {
    for (const design of demos)
      for (const s of planOf(design))
        if (/^(load|power|alone):/.test(s.key)) expect(s.caution, `${design.slug} ${s.key}`).not.toBeNull()
  })
  test('of what is told by radio nothing is taken off terminals, and a power cut takes back nothing', () => {
    const said = after(tank, {
      kind: 'add-part',
      partId: 'voice',
      part: 'transmitter-subghz',
      label: 'Voice',
      signals: [{ id: 'lamp', channel: 'send', slug: 'lamp' }],
    })
    const words = (design: typeof said) =>
      ['dry:lamp', 'load:lamp', 'power:lamp']
        .map((key) => stepOf(planOf(design), key))
        .map((s) => `${s.how} ${s.expect.kind === 'seen' ? s.expect.what : ''} ${JSON.stringify(s.causes)}`)
        .join(' ')
    expect(words(said)).not.toMatch(/terminals|control line|blink|it is off/)
    expect(words(said)).toMatch(/its state unknown/)
    const codes = (off: string | null, times: object) =>
      words(
        after(said, {
          kind: 'condition',
          signalId: 'lamp',
          set: { says: { family: latch, on: '0'.repeat(24), off }, ...times },
        }),
      )
    // As its driver does: off is said at the start where there is a code for it and a time that ends it.
    expect(codes('1'.repeat(24), { longestOnS: 60 })).toMatch(/goes off when/)
    expect(codes('1'.repeat(24), { pulseS: 2 })).toMatch(/goes off when/)
    expect(codes('1'.repeat(24), {})).toMatch(/its state unknown/)
    expect(codes(null, { longestOnS: 60 })).toMatch(/it does nothing/)
  })
  test('any design gives a plan, and nothing throws', () => {
    fc.assert(
      fc.property(fc.nat(100_000), fc.double({ min: -1e3, max: 1e6, noNaN: true }), (seed, value) => {
        const design = randomDesign(seeded(seed), 6)
        const board = catalog.boards[design.board.id]
        if (!board) return
        for (const s of bringUpPlan(design, board, catalog)) expect(judge(s, value).words.length).toBeGreaterThan(0)
      }),
      { numRuns: 60 },
    )
  })
})

describe('a divider, by paper', () => {
  // 4.5 … 5.5 V out of the part (95 % of 4.75 V at least): 10 kΩ over 15 kΩ, each ± 1 %.
  test('its span is what the resistors give', () => {
    const { expect: e } = divider()
    if (e.kind !== 'value') throw new Error('no span')
    const middle = (5 * 15) / 25
    expect(e.min).toBeLessThan(middle)
    expect(e.max).toBeGreaterThan(middle)
    expect(e.max).toBeLessThanOrEqual(3.6)
    expect(judge(divider(), middle)).toMatchObject({ ok: true, causes: [] })
  })
  // What each fault reads follows from Ohm's law alone; the part's output at 5 V.
  const U = 5
  test.each([
    ['changed places', (U * 10) / 25, /R1 and R2 have changed places/],
    ['lower one without ground', U, /R2 is missing or does not reach ground/],
    ['upper one missing', 0, /R1 is missing, or the output is not high/],
    ['100 kΩ for 10 kΩ above', (U * 15) / 115, /R1 is ten times too large/],
    ['1 kΩ for 10 kΩ above', (U * 15) / 16, /R1 is ten times too small/],
    ['1.5 kΩ for 15 kΩ below', (U * 1.5) / 11.5, /R2 is ten times too small/],
  ])('%s is named first', (_, reads, cause) => {
    const verdict = judge(divider(), Math.round(reads * 100) / 100)
    expect(verdict.ok).toBe(false)
    expect(
      verdict.causes
        .slice(0, 2)
        .map((c) => c.why)
        .join(' | '),
    ).toMatch(cause)
  })
})

describe('what was made otherwise', () => {
  const board = catalog.boards[divided.board.id]
  test('other resistors go into the design, and the span follows them', () => {
    const made = after(divided, ...carryBack(divided, `${ranger}.echo`, { topOhm: 20_000, bottomOhm: 20_000 }))
    const { expect: e } = stepOf(planOf(made), `divider:${ranger}.echo`)
    // Half of 4.5 to 5.5 V at the widest, resistors of 1 %.
    expect(e).toMatchObject({ kind: 'value' })
    if (e.kind === 'value') expect([e.min < 2.5, e.max > 2.5, e.max < 2.9]).toEqual([true, true, true])
    expect(carryBack(made, `${ranger}.echo`, { topOhm: 20_000, bottomOhm: 20_000 })).toEqual([])
  })
  test('a wire on another pin is that wire’s pin from then on, whatever the rules say of it', () => {
    const line = stepOf(planOf(divided), 'hand:spress').lines?.[0]?.key ?? ''
    const other = pinsOf(board ?? fail()).find((p) => !Object.values(divided.plan.pins).includes(p.label))?.label ?? ''
    const made = after(divided, ...carryBack(divided, line, { pin: other }))
    expect(made.plan.pins[line]).toBe(other)
  })
})

test('a number off a meter, as people write it', () => {
  const cases: [string, number | null][] = [
    ['4.9', 4.9],
    ['4,9 V', 4.9],
    ['68 mA', 0.068],
    ['68m', 0.068],
    ['150 µA', 0.00015],
    ['10k', 10_000],
    ['4.7 kΩ', 4700],
    ['−61 dBm', -61],
    ['.5', 0.5],
    ['', null],
    ['a lot', null],
    ['4.9.1', null],
    ['1e9', null],
  ]
  for (const [text, value] of cases) {
    const read = meterNumber(text)
    if (value === null) expect(read, text).toBeNull()
    else expect(read, text).toBeCloseTo(value, 9)
  }
})

describe('what is seen by itself', () => {
  const live = (value: unknown, at = '2026-01-01T10:00:10Z') => ({
    status: { is: 'online' },
    health: { dbm: -61 },
    running: null,
    values: { s: { value, at } },
  })
  const before = { at: '2026-01-01T10:00:05Z', value: 20, known: true, history: [] }
  test('a press that comes after the step was opened; one before it is none', () => {
    expect(watched({ of: 'told', signalId: 's' }, live('single'), before).seen).toBe(true)
    expect(watched({ of: 'told', signalId: 's' }, live('single', '2026-01-01T10:00:01Z'), before).seen).toBe(false)
  })
  test('another word; unknown is no movement', () => {
    const shut = { ...before, value: false }
    expect(watched({ of: 'moved', signalId: 's' }, live(true), shut).seen).toBe(true)
    expect(watched({ of: 'moved', signalId: 's' }, live(null), shut).seen).toBe(false)
    expect(watched({ of: 'moved', signalId: 's' }, live(true), { ...shut, known: false }).seen).toBe(false)
    expect(watched({ of: 'unknown', signalId: 's' }, live(null), before).seen).toBe(true)
    expect(watched({ of: 'strength' }, live(1), before).value).toBe(-61)
  })

  /** A reading each second from ten minutes before the step is opened to two after; a hand 60 s after the opening. */
  const OPENED = Date.UTC(2026, 0, 1, 10)
  const watchedAt = (reading: (t: number) => number, s: number, from = -600): boolean => {
    const history = Array.from({ length: s - from + 1 }, (_, i) => ({
      at: OPENED + 1000 * (from + i),
      value: reading(from + i),
    }))
    const at = (t: number) => new Date(OPENED + 1000 * t).toISOString()
    return watched(
      { of: 'moved', signalId: 's', number: { by: 0.5, unit: 'cm', decimals: 1 } },
      live(reading(s), at(s)),
      {
        at: at(0),
        value: reading(0),
        known: true,
        history,
      },
    ).seen
  }
  const seconds = Array.from({ length: 120 }, (_, i) => i + 1)
  test.each([
    ['a tank that fills by itself', (t: number) => 60 + t / 20],
    ['a tide of half an hour', (t: number) => 60 + 12 * Math.sin((2 * Math.PI * t) / 1800)],
    ['noise', (t: number) => 20 + 0.9 * Math.sin(t * t)],
  ])('%s does not count as a hand; a hand on top of it does', (_, reading) => {
    expect(seconds.filter((s) => watchedAt(reading, s))).toEqual([])
    const hand = (t: number) => reading(t) + (t >= 60 ? 15 : 0)
    expect(seconds.find((s) => watchedAt(hand, s))).toBe(60)
  })
  test('a reading that has only just come is left alone for a minute first', () => {
    const hand = (at: number) => (t: number) => 20 + (t >= at ? 5 : 0)
    expect(seconds.filter((s) => watchedAt(hand(20), s, 0))).toEqual([])
    expect(seconds.find((s) => watchedAt(hand(80), s, 0))).toBe(80)
  })
  test('a published-on-change reading stands until the next', () => {
    const at = (s: number) => ({ at: OPENED + 1000 * s, value: s < 30 ? 20 : 21 })
    const told = { ...before, at: new Date(OPENED).toISOString(), history: [at(-500), at(40)] }
    const when = new Date(OPENED + 40_000).toISOString()
    expect(
      watched({ of: 'moved', signalId: 's', number: { by: 0.5, unit: 'cm', decimals: 1 } }, live(21, when), told).seen,
    ).toBe(true)
  })
})

describe('a trial', () => {
  const T = Date.UTC(2026, 0, 1)
  const at = (h: number) => T + h * 3_600_000
  test('drop-outs, restarts nobody asked for, strength and supply', () => {
    let h: Happened = NOTHING_YET
    h = online(online(h, false, at(5)), true, at(5) + 2000) // a blink
    h = online(online(h, false, at(7)), true, at(7) + 600_000)
    h = healthTold(h, { dbm: -60, supplyV: 4.1, uptimeS: 100, restart: 'power' }, null, at(1))
    h = healthTold(h, { dbm: -70, supplyV: 4.0, uptimeS: 5, restart: 'watchdog' }, { uptimeS: 100 }, at(49))
    const verdict = trialVerdict(h, { startedAt: T, days: 14, now: at(96), sleeps: false })
    expect(verdict.ok).toBe(false)
    expect(verdict.share).toBeCloseTo(4 / 14)
    expect(verdict.lines.map((l) => l.words)).toEqual([
      expect.stringMatching(/^Gone 1 time, 10 min in all/),
      '1 restart nobody asked for: watchdog.',
      'Strength −65 dBm in the mean, −70 dBm at its weakest.',
      // 0.1 V in two days.
      expect.stringMatching(/falls by 50\.0 mV a day/),
    ])
  })
  test('a quiet one is fine; a sleeper that wakes is no restart', () => {
    const h = healthTold(NOTHING_YET, { dbm: -60, supplyV: null, uptimeS: 1, restart: 'woke' }, { uptimeS: 9 }, at(2))
    expect(trialVerdict(h, { startedAt: T, days: 1, now: at(30), sleeps: true })).toMatchObject({ ok: true, share: 1 })
    expect(trialVerdict(h, { startedAt: T, days: 1, now: at(30), sleeps: false }).ok).toBe(false)
  })
  test('drop-outs at the same hour say so', () => {
    let h: Happened = NOTHING_YET
    for (let d = 0; d < 4; d++) h = online(online(h, false, at(24 * d + 6)), true, at(24 * d + 6.2))
    expect(trialVerdict(h, { startedAt: T, days: 7, now: at(120), sleeps: false }).lines[0]?.words).toMatch(
      /mostly between/,
    )
  })
})

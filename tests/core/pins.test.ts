import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import fs from 'node:fs'
import { boardFiles, partFiles } from '../../catalog/index'
import { billOf } from '../../src/core/bill/bill'
import { boardSchema, findPins, pinsOf } from '../../src/core/catalog/board'
import { itemClash, itemText, readItem } from '../../src/core/catalog/itemFile'
import { partKindSchema } from '../../src/core/catalog/part'
import { searchParts } from '../../src/core/catalog/searchParts'
import { applyEdit } from '../../src/core/edits/apply'
import type { Design } from '../../src/core/model/design'
import { consequence } from '../../src/core/alternatives/consequence'
import { explainPin } from '../../src/core/alternatives/explainPin'
import { planLines } from '../../src/core/lines/lines'
import { NEVER } from '../../src/core/pins/lsap'
import { planPins, priceOf } from '../../src/core/pins/planPins'
import { rankBoards } from '../../src/core/alternatives/rankBoards'
import { applyAll, freeingEdits } from '../../src/core/alternatives/remedies'
import { solve } from '../../src/core/pins/solve'
import { chooseLadder, judgeLadder } from '../../src/core/wiring/ladder'
import { POSITIONS } from '../support/boardFacts'
import { addPart, addParts, after, blank, catalog, PARTS, slipTank } from '../support/designs'
import { mipPlan } from '../support/mipPlan'
import { randomDesign, seeded } from '../support/randomDesigns'

/** Facts of both chips written down a second time, from their data sheets, not from the catalogue. */
const FACTS = {
  'board-32-30': {
    chips: {
      VP: 36,
      VN: 39,
      D34: 34,
      D35: 35,
      D32: 32,
      D33: 33,
      D25: 25,
      D26: 26,
      D27: 27,
      D14: 14,
      D12: 12,
      D13: 13,
      D23: 23,
      D22: 22,
      TX0: 1,
      RX0: 3,
      D21: 21,
      D19: 19,
      D18: 18,
      D5: 5,
      TX2: 17,
      RX2: 16,
      D4: 4,
      D2: 2,
      D15: 15,
    },
    readOnly: ['VP', 'VN', 'D34', 'D35'],
    noPulls: ['VP', 'VN', 'D34', 'D35'],
    pulsing: ['D5', 'D14', 'D15'],
    adc1: ['VP', 'VN', 'D34', 'D35', 'D32', 'D33'],
    wake: ['VP', 'VN', 'D34', 'D35', 'D32', 'D33', 'D25', 'D26', 'D27', 'D14', 'D12', 'D13', 'D4', 'D2', 'D15'],
    straps: { D12: 'low', D2: 'low' },
  },
  'board-8266-16': {
    chips: { A0: 17, D0: 16, D5: 14, D6: 12, D7: 13, D8: 15, TX: 1, RX: 3, D1: 5, D2: 4, D3: 0, D4: 2 },
    readOnly: ['A0'],
    noPulls: ['A0', 'D0'],
    pulsing: ['D3', 'D4'],
    adc1: ['A0'],
    wake: [],
    straps: { D8: 'low', D3: 'high', D4: 'high', TX: 'high' },
  },
  'board-c3-16': {
    chips: { 5: 5, 6: 6, 7: 7, 8: 8, 9: 9, 10: 10, RX: 20, TX: 21, 4: 4, 3: 3, 2: 2, 1: 1, 0: 0 },
    readOnly: [],
    noPulls: [],
    pulsing: [],
    adc1: ['0', '1', '2', '3', '4'],
    wake: ['0', '1', '2', '3', '4', '5'],
    straps: { 2: 'high', 8: 'high', 9: 'high' },
  },
  'board-s3-44': {
    chips: {
      ...Object.fromEntries(
        [
          0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19, 20, 21, 35, 36, 37, 38, 39, 40, 41, 42,
          45, 46, 47, 48,
        ].map((n) => [String(n), n]),
      ),
      TX: 43,
      RX: 44,
    },
    readOnly: [],
    noPulls: [],
    pulsing: ['19', '20'],
    adc1: ['1', '2', '3', '4', '5', '6', '7', '8', '9', '10'],
    wake: Array.from({ length: 22 }, (_, i) => String(i)),
    straps: { 0: 'high', 45: 'low', 46: 'low' },
  },
  'board-c6-32': {
    chips: {
      4: 4,
      5: 5,
      6: 6,
      7: 7,
      0: 0,
      1: 1,
      8: 8,
      10: 10,
      11: 11,
      2: 2,
      3: 3,
      TX: 16,
      RX: 17,
      15: 15,
      23: 23,
      22: 22,
      21: 21,
      20: 20,
      19: 19,
      18: 18,
      9: 9,
      13: 13,
      12: 12,
    },
    readOnly: [],
    noPulls: [],
    pulsing: ['12', '13'],
    adc1: ['0', '1', '2', '3', '4', '5', '6'],
    wake: ['0', '1', '2', '3', '4', '5', '6', '7'],
    straps: { 8: 'high', 9: 'high' },
  },
  'board-rp2040-40': {
    chips: Object.fromEntries([...Array.from({ length: 23 }, (_, i) => i), 26, 27, 28].map((n) => [`GP${n}`, n])),
    readOnly: [],
    noPulls: [],
    pulsing: [],
    adc1: ['GP26', 'GP27', 'GP28'],
    wake: [...Array.from({ length: 23 }, (_, i) => `GP${i}`), 'GP26', 'GP27', 'GP28'],
    straps: {},
  },
}

describe('pin facts against a second table', () => {
  for (const [id, facts] of Object.entries(FACTS)) {
    test(id, () => {
      const board = catalog.boards[id]
      if (!board) throw new Error('no board')
      const pins = pinsOf(board)
      expect(Object.fromEntries(pins.map((p) => [p.label, p.chip]))).toEqual(facts.chips)
      const labels = (keep: (p: (typeof pins)[number]) => boolean) =>
        pins
          .filter(keep)
          .map((p) => p.label)
          .sort()
      expect(labels((p) => !p.functions.includes('out'))).toEqual([...facts.readOnly].sort())
      expect(labels((p) => p.pulls.length === 0)).toEqual([...facts.noPulls].sort())
      expect(labels((p) => p.startup === 'pulses')).toEqual([...facts.pulsing].sort())
      expect(labels((p) => p.functions.includes('adc1'))).toEqual([...facts.adc1].sort())
      expect(labels((p) => p.wake)).toEqual([...facts.wake].sort())
      expect(
        Object.fromEntries(pins.flatMap((p) => (p.strap && p.strap.level !== 'any' ? [[p.label, p.strap.level]] : []))),
      ).toEqual(facts.straps)
    })
  }
  test('positions are physical and without gaps on either side', () => {
    for (const board of Object.values(catalog.boards)) {
      for (const side of ['left', 'right'] as const) {
        const at = board.positions.filter((p) => p.side === side).map((p) => p.position)
        expect(at).toEqual(at.map((_, i) => i + 1))
      }
    }
  })
})

const parts = fc.array(fc.constantFrom(...PARTS), { minLength: 1, maxLength: 6 })
const boardId = fc.constantFrom(...Object.keys(FACTS))

function built(board: string, kinds: string[]): Design {
  return after(blank(board), ...kinds.map((k, i) => addPart(`p${i}`, k)))
}

describe('a plan', () => {
  test('obeys the hard rules, uses no pin twice, keeps locks and free pins, and is its own fixed point', () => {
    fc.assert(
      fc.property(boardId, parts, fc.array(fc.nat(24), { maxLength: 6 }), (board, kinds, frees) => {
        let design = built(board, kinds)
        const facts = FACTS[board as keyof typeof FACTS]
        const labels = Object.keys(facts.chips)
        for (const f of frees) {
          const applied = applyEdit(
            design,
            { kind: 'keep-free', pin: labels[f % labels.length] ?? '', free: true },
            catalog,
          )
          if (applied.ok) design = applied.design
        }
        const plan = planPins(design, catalog)
        if (plan.kind !== 'planned') return
        const used = Object.values(plan.pins)
        expect(new Set(used).size).toBe(used.length)
        for (const line of planLines(design, catalog)) {
          const pin = plan.pins[line.key] ?? ''
          expect(labels).toContain(pin)
          expect(design.keptFree[pin]).toBeUndefined()
          if (line.terminal.board !== 'reads') expect(facts.readOnly).not.toContain(pin)
          if (line.terminal.hazard) expect(facts.pulsing).not.toContain(pin)
          // A contact to ground may sit on a pin that only matters while writing over the cable, never on one that must
          // be high at each start.
          if (line.terminal.id === 'a')
            expect(POSITIONS[board]?.find((p) => p[2] === pin)?.[4]).not.toMatch(/strap-high/)
        }
        const accepted = after(design, { kind: 'accept-plan', pins: plan.pins })
        const again = planPins(accepted, catalog)
        expect(again.kind === 'planned' && again.pins).toEqual(plan.pins)
      }),
      { numRuns: 60 },
    )
  })

  test('costs the same whatever the order of the parts', () => {
    fc.assert(
      fc.property(boardId, parts, (board, kinds) => {
        const cost = (ks: string[]) => {
          const plan = planPins(built(board, ks), catalog, { past: 'afresh' })
          return plan.kind === 'planned' ? plan.price.cost : null
        }
        expect(cost([...kinds].reverse())).toBe(cost(kinds))
      }),
      { numRuns: 40 },
    )
  })

  test('is the least there is, pairs included: against trying everything', () => {
    const cell = fc.option(fc.nat(12), { freq: 4 })
    const problems = fc
      .record({ rows: fc.integer({ min: 1, max: 5 }), columns: fc.integer({ min: 5, max: 7 }) })
      .chain(({ rows, columns }) =>
        fc.record({
          rows: fc.constant(rows),
          columns: fc.constant(columns),
          cost: fc.array(cell, { minLength: rows * columns, maxLength: rows * columns }),
          couplings: fc.array(
            fc.record({
              a: fc.nat(rows - 1),
              b: fc.nat(rows - 1),
              table: fc.array(fc.option(fc.nat(6), { freq: 5 }), {
                minLength: columns * columns,
                maxLength: columns * columns,
              }),
            }),
            { maxLength: 4 },
          ),
        }),
      )
    const number = (v: number | null) => v ?? NEVER
    fc.assert(
      fc.property(problems, ({ rows, columns, cost, couplings: wished }) => {
        const couplings = wished
          .filter((c) => c.a !== c.b)
          .map((c) => ({ a: c.a, b: c.b, table: Float64Array.from(c.table.map(number)) }))
        const price = (at: number[]) =>
          at.reduce((sum, c, r) => sum + number(cost[r * columns + c] ?? null), 0) +
          couplings.reduce((sum, { a, b, table }) => sum + (table[(at[a] ?? 0) * columns + (at[b] ?? 0)] ?? 0), 0)
        const all = (at: number[]): number =>
          at.length === rows
            ? price(at)
            : Math.min(...Array.from({ length: columns }, (_, c) => (at.includes(c) ? NEVER : all([...at, c]))))
        const least = all([])
        const found = solve({ rows, columns, cost: Float64Array.from(cost.map(number)), couplings, twins: [] })
        expect(found.proven).toBe(true)
        expect(found.columns ? price(found.columns) : NEVER).toBe(Math.min(least, NEVER))
      }),
      { numRuns: 400 },
    )
  })

  test('moves as few planned lines as possible, and a made wire only when nothing else works', () => {
    const design = slipTank()
    const wire = Object.keys(design.wires).find((k) => k.includes('part:ranger.trig')) ?? ''
    const made = after(design, { kind: 'mark-wire', wire, made: true }, { kind: 'choose-board', board: 'board-32-30' })
    const kept = planPins({ ...made, plan: { ...design.plan } }, catalog)
    expect(kept.kind === 'planned' && kept.moves).toEqual([])
    const odd = { ...design, plan: { ...design.plan, pins: { ...design.plan.pins, 'ranger.trig': 'D5' } } }
    expect(planPins(odd, catalog)).toMatchObject({ kind: 'planned', moves: [] })
    expect(planPins(odd, catalog, { past: 'afresh' })).toMatchObject({ moves: [{ line: 'ranger.trig', from: 'D5' }] })
  })
})

describe('what cannot be', () => {
  test('a conflict is irreducible: without any one of its members the rest can be planned', () => {
    const outputs = pinsOf(
      catalog.boards['board-8266-16'] ??
        (() => {
          throw new Error()
        })(),
    ).map((p) => p.label)
    let design = built('board-8266-16', ['relay-module-low', 'button-ground'])
    for (const pin of outputs) {
      const applied = applyEdit(design, { kind: 'keep-free', pin, free: true }, catalog)
      if (applied.ok) design = applied.design
    }
    const plan = planPins(design, catalog)
    if (plan.kind !== 'impossible') throw new Error('expected a conflict')
    const members = plan.conflicts[0]?.members ?? []
    expect(members.length).toBeGreaterThan(1)
    for (const member of members.filter((m) => m.kind === 'kept-free')) {
      const keptFree = Object.fromEntries(
        members.flatMap((m) => (m.kind === 'kept-free' && m !== member ? [[m.pin, true as const]] : [])),
      )
      const lines = members.flatMap((m) => (m.kind === 'line' ? [m.line.split('.')[0] ?? ''] : []))
      const only = {
        ...design,
        keptFree,
        parts: Object.fromEntries(Object.entries(design.parts).filter(([id]) => lines.includes(id))),
      }
      expect(planPins(only, catalog).kind).toBe('planned')
    }
  })

  const refusals: [string, string, string, RegExp][] = [
    ['relay on a pin that only reads', 'pumprelay.in', 'D34', /only reads/],
    ['relay on a pin that pulses at the start', 'pumprelay.in', 'D14', /pulses while the chip starts/],
    ['echo on the strap that must be low', 'ranger.echo', 'D12', /must be low at reset.*45 kΩ/],
    ['one-wire pull-up on the strap that must be low', 'probe.data', 'D12', /2\.99 V/],
    ['a pin the board does not have', 'button.a', 'D99', /not a pin of this board/],
  ]
  test.each(refusals)('%s is refused with its reason', (_name, line, pin, reason) => {
    const applied = applyEdit(slipTank(), { kind: 'lock', line, pin }, catalog)
    expect(applied.ok).toBe(false)
    if (!applied.ok) {
      expect(applied.reason).toMatch(reason)
      expect(applied.accepts).toMatch(/D13/)
    }
  })

  test('a lock moves only the line it names and the one that was there', () => {
    const before = slipTank()
    const now = after(before, { kind: 'lock', line: 'button.a', pin: before.plan.pins['ranger.trig'] ?? '' })
    expect(now.plan.pins['button.a']).toBe(before.plan.pins['ranger.trig'])
    for (const line of ['ranger.echo', 'pumprelay.in', 'probe.data'])
      expect(now.plan.pins[line]).toBe(before.plan.pins[line])
    expect(now.plan.pins['ranger.trig']).toBeDefined()
  })

  test('every planned line has a sentence of reason, every other pin a cost or a refusal', () => {
    const design = slipTank()
    for (const line of planLines(design, catalog)) {
      const reason = explainPin(design, catalog, line.key)
      expect(reason?.sentence).toMatch(/\.$/)
      expect((reason?.others.length ?? 0) + (reason?.refused.length ?? 0) + 1).toBe(25)
    }
  })
})

describe('buses, pulses and sleep', () => {
  const plan = (board: string, ...edits: Parameters<typeof after>[1][]) => {
    const design = after(blank(board), ...edits)
    return { design, plan: planPins(design, catalog, { past: 'afresh' }) }
  }
  const add = (partId: string, part: string): Parameters<typeof after>[1] => ({
    kind: 'add-part',
    partId,
    part,
    label: partId,
    signals: [],
  })
  const pinsAt = (p: ReturnType<typeof planPins>) => (p.kind === 'planned' ? p.pins : {})

  test('parts of one bus share two pins; a second bus needs a second controller', () => {
    const two = [add('upper', 'climate-i2c-two'), add('lower', 'climate-i2c-two')]
    expect(Object.keys(pinsAt(plan('board-c3-16', ...two).plan))).toEqual(['i2ca.sda', 'i2ca.scl'])
    const apart: Parameters<typeof after>[1] = { kind: 'set-bus', partId: 'lower', bus: 'b' }
    expect(Object.keys(pinsAt(plan('board-32-30', ...two, apart).plan))).toHaveLength(4)
    const none = plan('board-c3-16', ...two, apart).plan
    expect(none.kind === 'impossible' && none.conflicts[0]?.words).toMatch(
      /2 I²C buses are wished for, and this chip has 1/,
    )
    // In software there is no limit.
    expect(plan('board-8266-16', ...two, apart).plan.kind).toBe('planned')
  })

  test('where silicon ties buses to pins, both lines end at one controller, and two buses at two', () => {
    // Controllers of the pins as the chip's data sheet lists them: (n / 2) mod 2.
    const { plan: p } = plan('board-rp2040-40', add('one', 'climate-i2c-fixed'), add('two', 'light-i2c'), {
      kind: 'set-bus',
      partId: 'two',
      bus: 'b',
    })
    const at = Object.fromEntries(Object.entries(pinsAt(p)).map(([key, label]) => [key, Number(label.slice(2))]))
    const of = (key: string) => Math.floor((at[key] ?? 0) / 2) % 2
    expect(of('i2ca.sda')).toBe(of('i2ca.scl'))
    expect(of('i2cb.sda')).toBe(of('i2cb.scl'))
    expect(of('i2ca.sda')).not.toBe(of('i2cb.sda'))
    expect((at['i2ca.sda'] ?? 1) % 2).toBe(0)
    expect((at['i2ca.scl'] ?? 0) % 2).toBe(1)
  })

  test('two pulse outputs never share a channel, nor one slice two frequencies', () => {
    for (const seed of [1, 2, 3, 4]) {
      const random = seeded(seed)
      const kinds = ['servo', 'led-pwm', 'fet-stage', 'strip-two-white', 'motor-driver', 'servo', 'led-pwm'].sort(
        () => random() - 0.5,
      )
      const { design, plan: p } = plan('board-rp2040-40', ...addParts(kinds))
      const used = planLines(design, catalog)
        .filter((l) => l.terminal.needs === 'pwm')
        .map((l) => ({ n: Number(pinsAt(p)[l.key]?.slice(2)), hz: l.terminal.pwmHz }))
      expect(used.length).toBe(9)
      for (const [i, a] of used.entries()) {
        for (const b of used.slice(i + 1)) {
          expect(a.n % 16, `${a.n} and ${b.n}`).not.toBe(b.n % 16)
          if (Math.floor((a.n % 16) / 2) === Math.floor((b.n % 16) / 2)) expect(a.hz).toBe(b.hz)
        }
      }
    }
  })

  test('what is to end the sleep gets a pin that can; contacts to ground cannot each wake a chip that wakes on any high', () => {
    const waking = (n: number): Parameters<typeof after>[1][] => [
      { kind: 'sleep', everyS: 600 },
      ...Array.from({ length: n }, (_, i) => add(`b${i}b`, 'button-ground')),
      ...Array.from({ length: n }, (_, i): Parameters<typeof after>[1] => ({
        kind: 'set-part',
        partId: `b${i}b`,
        setting: 'wakes',
        value: 'yes',
      })),
    ]
    const three = plan('board-c3-16', ...waking(3)).plan
    // Pin 2 is sampled at reset, so a button to ground may not hold it.
    for (const pin of Object.values(pinsAt(three))) expect(['0', '1', '3', '4', '5']).toContain(pin)
    expect(plan('board-32-30', ...waking(1)).plan.kind).toBe('planned')
    const no = plan('board-32-30', ...waking(2)).plan
    expect(no.kind === 'impossible' && no.conflicts[0]?.words).toMatch(/contacts to ground cannot each wake it/)
    expect(no.kind === 'impossible' && no.conflicts[0]?.members.map((m) => m.kind).sort()).toEqual([
      'line',
      'line',
      'wakes',
      'wakes',
    ])
    expect(plan('board-8266-16', ...waking(1)).plan.kind).toBe('impossible')
    // D0 is tied to RST on that board once it sleeps.
    const tied = after(blank('board-8266-16'), { kind: 'sleep', everyS: 60 }, add('relay', 'relay-module-low'))
    expect(applyEdit(tied, { kind: 'lock', line: 'relay.in', pin: 'D0' }, catalog)).toMatchObject({
      ok: false,
      reason: expect.stringMatching(/tied to RST/),
    })
  })

  test('a stop says how far from proven it is, and never invents a plan', () => {
    const design = {
      ...after(
        blank('board-32-30'),
        ...addParts([
          'climate-i2c-two',
          'ranger-echo',
          'ranger-echo',
          'thermocouple-spi',
          'strip-two-white',
          'encoder-push',
          'presence-radar',
          'button-ground',
          'contact-reed',
        ]),
      ),
      plan: { pins: {}, basis: '' },
    }
    const whole = planPins(design, catalog, { past: 'afresh' })
    const cut = planPins(design, catalog, { past: 'afresh', stop: () => true })
    if (whole.kind !== 'planned' || cut.kind !== 'planned') throw new Error('expected plans')
    expect(whole.proven).toBe(true)
    expect(cut.bound.cost).toBeLessThanOrEqual(whole.price.cost)
    expect(cut.price.cost).toBeGreaterThanOrEqual(whole.price.cost)
  })
})

describe('a second opinion', () => {
  test('a mixed-integer program written from the rules in words finds the same optimum, or finds none as well', async () => {
    const highs = await (await import('highs')).default()
    const random = seeded(99)
    for (let i = 0; i < 25; i++) {
      const design = randomDesign(random, 5)
      const plan = planPins(design, catalog, { past: 'kept', conflicts: 'unsaid' })
      const text = mipPlan(design, catalog)
      const answer = text === null ? null : highs.solve(text, { mip_rel_gap: 0, mip_abs_gap: 0.5 })
      const theirs = answer?.Status === 'Optimal' ? Math.round(answer.ObjectiveValue) : null
      const ours = plan.kind === 'planned' ? plan.price.moved * 10_000 + plan.price.cost : null
      expect(
        ours,
        `${i}: ${Object.values(design.parts)
          .map((p) => p.kind)
          .join(' ')} on ${design.board.id}`,
      ).toBe(theirs)
    }
  }, 60_000)
})

describe('ways out', () => {
  test('a full board is freed by gathering buttons; every way out offered does what it says', () => {
    const design = after(blank('board-8266-16'), ...addParts(Array.from({ length: 12 }, () => 'button-ground')))
    let n = 0
    const frees = freeingEdits(design, catalog, () => `pad${'abcdefgh'[n++]}`)
    expect(frees.map((f) => f.label).join('\n')).toMatch(/Gather 12 buttons: key matrix 3 × 4[\s\S]*Take the/)
    for (const f of frees) {
      const freed = applyAll(design, f.edits, catalog)
      if (!freed) throw new Error(f.label)
      const open = planLines(freed, catalog).filter((l) => freed.plan.pins[l.key] === undefined).length
      expect(open, f.label).toBe(f.leaves)
    }
  })

  test('buttons that are gathered keep names, tags and topics', () => {
    const design = after(blank('board-32-30'), addPart('one', 'button-ground'), addPart('two', 'button-ground'))
    const before = Object.values(design.signals).map((s) => [s.tag, s.slug])
    const pad = after(design, {
      kind: 'gather',
      partIds: ['one', 'two'],
      part: 'keys-ladder-5',
      partId: 'pad',
      label: 'Pad',
    })
    expect(Object.values(pad.signals).map((s) => [s.tag, s.slug])).toEqual(before)
    expect(Object.values(pad.signals).map((s) => s.channel)).toEqual(['k1', 'k2'])
  })

  test('boards are ranked with what stays free; one that cannot says why', () => {
    const design = after(blank('board-32-30'), ...addParts(['presence-radar', 'soil-analog', 'level-analog']))
    const ranked = rankBoards(design, catalog)
    expect(ranked).toHaveLength(6)
    const small = ranked.find((r) => r.board === 'board-8266-16')
    expect(small?.carries).toBe(false)
    expect(small?.awkward.join(' ')).toMatch(/none beside its console/)
    expect(ranked.filter((r) => r.carries).map((r) => r.cost)).toEqual(
      ranked
        .filter((r) => r.carries)
        .map((r) => r.cost)
        .sort((a, b) => a - b),
    )
  })

  test('a thread put on a pin by hand moves as few others as can be, at the least cost: against the mixed-integer program', async () => {
    const highs = await (await import('highs')).default()
    const random = seeded(5)
    let moved = 0
    for (let i = 0; i < 40; i++) {
      const start = randomDesign(random, 4)
      const settled = planPins(start, catalog, { past: 'kept', conflicts: 'unsaid' })
      if (settled.kind !== 'planned') continue
      const design = { ...start, plan: { pins: settled.pins, basis: '' } }
      const lines = planLines(design, catalog)
      const line = lines[Math.floor(random() * lines.length)]
      const others = Object.values(settled.pins)
      const pin = others[Math.floor(random() * others.length)]
      if (!line || pin === undefined) continue
      const said = consequence(design, catalog, line.key, pin)
      const done = applyEdit(design, { kind: 'lock', line: line.key, pin }, catalog)
      expect(said.kind === 'possible', `${i}`).toBe(done.ok)
      if (said.kind !== 'possible' || !done.ok) continue
      const text = mipPlan({ ...design, keptFree: done.design.keptFree, locks: done.design.locks }, catalog)
      const answer = text === null ? null : highs.solve(text, { mip_rel_gap: 0, mip_abs_gap: 0.5 })
      if (answer?.Status !== 'Optimal') {
        expect(said.opens.length, `${i}`).toBeGreaterThan(0)
        continue
      }
      const board = catalog.boards[design.board.id]
      if (!board) throw new Error('no board')
      expect(said.opens).toEqual([])
      expect(
        said.moves.length * 10_000 + priceOf(design, board, lines, done.design.plan.pins).cost,
        `${i} on ${design.board.id}`,
      ).toBe(Math.round(answer.ObjectiveValue))
      expect(said.words.match(/moves from/g)?.length ?? 0).toBe(said.moves.filter((m) => m.line !== line.key).length)
      moved += said.moves.length
    }
    expect(moved).toBeGreaterThan(10)
  }, 60_000)

  test('a lock that leaves another line without a pin says which before it is made', () => {
    const labels = ['D1', 'D2', 'D5', 'D6', 'D7']
    const five = after(blank('board-8266-16'), ...addParts(Array.from({ length: 5 }, () => 'button-ground')))
    const full = [
      ...pinsOf(
        catalog.boards['board-8266-16'] ??
          (() => {
            throw new Error()
          })(),
      ).map((p) => p.label),
    ]
      .filter((l) => !Object.values(five.plan.pins).includes(l))
      .reduce((d, pin) => {
        const kept = applyEdit(d, { kind: 'keep-free', pin, free: true }, catalog)
        return kept.ok ? kept.design : d
      }, five)
    expect(Object.values(full.plan.pins).sort()).toEqual(labels)
    const [mine = ''] = Object.keys(full.plan.pins)
    const theirs = Object.entries(full.plan.pins).find(([key]) => key !== mine)
    const held = after(full, { kind: 'lock', line: theirs?.[0] ?? '', pin: theirs?.[1] ?? '' })
    expect(consequence(held, catalog, mine, theirs?.[1] ?? '')).toMatchObject({
      kind: 'refused',
      reason: expect.stringMatching(/is locked to/),
    })
    // A freed pin of the wrong kind for the one who has to leave: D8 reads no button through its pull, but a console
    // pin would.
    const swap = consequence(full, catalog, mine, theirs?.[1] ?? '')
    expect(swap).toMatchObject({ kind: 'possible', opens: [], moves: [{}, {}] })
  })

  test('resistors a design has added count on every board it is tried on', () => {
    const bare = after(blank('board-32-30'), {
      kind: 'add-part',
      partId: 'relay',
      part: 'relay-bare',
      label: 'Relay',
      signals: [],
    })
    const held = after(bare, {
      kind: 'add-component',
      componentId: 'hold',
      component: { type: 'pull', line: 'relay.in', names: ['R1'], level: 'low', ohm: 10_000, tolerance: 0.05 },
    })
    const on = (design: Design) => rankBoards(design, catalog).find((r) => r.board === 'board-8266-16')
    // The pins of that board are pulled up, pulse or hang on a strap; with the resistor one that is pulled up will do.
    expect(on(bare)?.awkward.join(' ')).not.toBe('')
    expect(on(held)).toMatchObject({ carries: true, cost: 0, proven: true })
  })

  test('a ranking that is stopped says what it does not know', () => {
    const design = after(
      blank('board-32-30'),
      ...addParts(['climate-i2c-two', 'ranger-echo', 'thermocouple-spi', 'strip-two-white', 'encoder-push']),
    )
    const cut = rankBoards(design, catalog, () => () => true)
    const whole = rankBoards(design, catalog)
    for (const r of whole) {
      const other = cut.find((c) => c.board === r.board)
      if (other?.carries) expect(other.cost).toBeGreaterThanOrEqual(r.cost)
      if (other?.carries && other.proven) expect(other.cost).toBe(r.cost)
      if (!other?.carries && r.carries) expect(other?.proven).toBe(false)
    }
  })
})

describe('the catalogue', () => {
  test('every file passes the schema of its kind and leaves nothing to it: no start reads it again', () => {
    for (const file of boardFiles) expect(boardSchema.parse(file)).toEqual(file)
    for (const file of partFiles) expect(partKindSchema.parse(file)).toEqual(file)
  })

  test('has every file of its folder; every numbering of a pin leads to it', () => {
    for (const [folder, ids] of [
      ['boards', Object.keys(catalog.boards)],
      ['parts', Object.keys(catalog.parts)],
    ] as const) {
      expect(
        fs
          .readdirSync(`catalog/${folder}`)
          .map((f) => f.replace('.json', ''))
          .sort(),
      ).toEqual([...ids].sort())
    }
    expect(Object.keys(catalog.parts).length).toBeGreaterThanOrEqual(28)
    const small = catalog.boards['board-8266-16']
    if (!small) throw new Error('no board')
    expect(findPins(small, 'gpio5').map((m) => m.pin.label)).toEqual(['D1'])
    // “D5” is printed on the pin whose number is 14; “5” is the number of the one printed D1.
    expect(findPins(small, 'D5').map((m) => [m.pin.label, m.by])).toEqual([['D5', 'printed label']])
    expect(findPins(small, '5').map((m) => m.pin.label)).toEqual(['D1'])
    for (const board of Object.values(catalog.boards)) {
      for (const pin of pinsOf(board))
        for (const word of [pin.label, ...pin.names]) expect(findPins(board, word).map((m) => m.pin)).toContain(pin)
    }
  })

  test('an exported item reads back as itself, and a spoilt one is told by line and column', () => {
    for (const item of [...Object.values(catalog.boards), ...Object.values(catalog.parts)]) {
      const text = itemText(item)
      const read = readItem(text)
      expect(read.ok && itemText(read.item.value)).toBe(text)
      expect(read.ok && itemClash(catalog, read.item)).toBeNull()
    }
    const text = itemText(
      catalog.parts['light-i2c'] ??
        (() => {
          throw new Error()
        })(),
    )
    const wrong = readItem(text.replace('"role": "supply"', '"role": "suply"'))
    expect(wrong.ok).toBe(false)
    if (!wrong.ok)
      expect(wrong.problems[0]?.line).toBe(text.split('\n').findIndex((l) => l.includes('"role": "supply"')) + 1)
    const ours = readItem(text.replace(/"version": \d+/, '"version": 99'))
    expect(ours.ok && itemClash(catalog, ours.item)).toMatch(/ships with the product/)
  })

  test('a wish in plain words finds what answers it', () => {
    for (const [wish, id] of [
      ['humidity', 'climate-i2c-two'],
      ['door', 'contact-reed'],
      ['kiln temperature', 'thermocouple-spi'],
      ['dim', 'fet-stage'],
      ['dust', 'air-quality-serial'],
      ['how full', 'ranger-echo'],
    ] as const) {
      expect(
        searchParts(catalog, wish)
          .slice(0, 4)
          .map((k) => k.id),
        wish,
      ).toContain(id)
    }
    expect(searchParts(catalog, 'xyzzy')).toEqual([])
  })

  test('the bill counts whole packs', () => {
    const design = after(blank('board-32-30'), ...addParts(Array.from({ length: 11 }, () => 'button-ground')), {
      kind: 'set-cost',
      item: 'button-ground',
      cost: 0.5,
    })
    const row = billOf(design, catalog).rows.find((r) => r.id === 'button-ground')
    expect(row).toMatchObject({ count: 11, pack: 10, packs: 2, each: 0.5, cost: 10 })
  })
})

describe('resistor ladder', () => {
  test('no sample within tolerance leaves a key’s span, and the stated gap is the least there is', () => {
    const wish = {
      keys: 5,
      pullOhm: 4700,
      tolerance: 0.01,
      bits: 12,
      converterError: 0.01,
      maxV: 3.3,
      fullV: 3.3,
      supplyV: 3.3,
      ripple: 0,
      loadOhm: Infinity,
    }
    const { keys, worstGap } = chooseLadder(wish)
    expect(worstGap).toBeGreaterThan(0)
    const random = seeded(3)
    const seen = keys.map(() => [Infinity, -Infinity] as [number, number])
    for (let i = 0; i < 4000; i++) {
      keys.forEach((k, n) => {
        const r = k.ohm * (1 + (random() * 2 - 1) * 0.01)
        const pull = 4700 * (1 + (random() * 2 - 1) * 0.01)
        const code = (4095 * r) / (r + pull) + (random() * 2 - 1) * 40.95
        expect(code).toBeGreaterThanOrEqual(k.low - 1e-6)
        expect(code).toBeLessThanOrEqual(k.high + 1e-6)
        seen[n] = [Math.min(seen[n]?.[0] ?? 0, code), Math.max(seen[n]?.[1] ?? 0, code)]
      })
    }
    const spans = [[4095 - 40.95, 4095 + 40.95] as const, ...seen].sort((a, b) => b[0] - a[0])
    const gap = Math.min(...spans.slice(1).map((s, i) => (spans[i]?.[0] ?? 0) - s[1]))
    expect(gap).toBeGreaterThanOrEqual(worstGap)
    expect(gap).toBeLessThan(worstGap + 60)
    // 4.7 kΩ over 4.7 kΩ is half of full scale, whatever the method.
    expect(judgeLadder([4700], wish).keys[0]?.code).toBeCloseTo(2047.5, 6)
  })
})

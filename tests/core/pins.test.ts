import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { pinsOf } from '../../src/core/catalog/board'
import { applyEdit } from '../../src/core/design/apply'
import type { Design } from '../../src/core/design/design'
import { explainPin } from '../../src/core/pins/explainPin'
import { planLines } from '../../src/core/pins/lines'
import { NEVER } from '../../src/core/pins/lsap'
import { planPins } from '../../src/core/pins/planPins'
import { solve } from '../../src/core/pins/solve'
import { addPart, after, blank, catalog, PARTS, slipTank } from '../support/designs'

/** Facts of both chips written down a second time, from their data sheets, not from the catalogue. */
const FACTS = {
  'board-32-30': {
    chips: { VP: 36, VN: 39, D34: 34, D35: 35, D32: 32, D33: 33, D25: 25, D26: 26, D27: 27, D14: 14, D12: 12, D13: 13, D23: 23, D22: 22, TX0: 1, RX0: 3, D21: 21, D19: 19, D18: 18, D5: 5, TX2: 17, RX2: 16, D4: 4, D2: 2, D15: 15 },
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
    noPulls: ['A0'],
    pulsing: ['D3', 'D4'],
    adc1: ['A0'],
    wake: [],
    straps: { D8: 'low', D3: 'high', D4: 'high', TX: 'high' },
  },
} as const

describe('pin facts against a second table', () => {
  for (const [id, facts] of Object.entries(FACTS)) {
    test(id, () => {
      const board = catalog.boards[id]
      if (!board) throw new Error('no board')
      const pins = pinsOf(board)
      expect(Object.fromEntries(pins.map((p) => [p.label, p.chip]))).toEqual(facts.chips)
      const labels = (keep: (p: (typeof pins)[number]) => boolean) => pins.filter(keep).map((p) => p.label).sort()
      expect(labels((p) => !p.functions.includes('out'))).toEqual([...facts.readOnly].sort())
      expect(labels((p) => p.pulls.length === 0)).toEqual([...facts.noPulls].sort())
      expect(labels((p) => p.startup === 'pulses')).toEqual([...facts.pulsing].sort())
      expect(labels((p) => p.functions.includes('adc1'))).toEqual([...facts.adc1].sort())
      expect(labels((p) => p.wake)).toEqual([...facts.wake].sort())
      expect(Object.fromEntries(pins.flatMap((p) => (p.strap && p.strap.level !== 'any' ? [[p.label, p.strap.level]] : [])))).toEqual(facts.straps)
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
const boardId = fc.constantFrom('board-32-30', 'board-8266-16')

function built(board: string, kinds: string[]): Design {
  return after(blank(board), ...kinds.map((k, i) => addPart(`p${i}`, k)))
}

describe('a plan', () => {
  test('obeys the hard rules, uses no pin twice, keeps locks and free pins, and is its own fixed point', () => {
    fc.assert(fc.property(boardId, parts, fc.array(fc.nat(24), { maxLength: 6 }), (board, kinds, frees) => {
      let design = built(board, kinds)
      const facts = FACTS[board as keyof typeof FACTS]
      const labels = Object.keys(facts.chips)
      for (const f of frees) {
        const applied = applyEdit(design, { kind: 'keep-free', pin: labels[f % labels.length] ?? '', free: true }, catalog)
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
        if (line.terminal.id === 'a') expect(facts.straps).not.toHaveProperty(pin, 'high')
      }
      const accepted = after(design, { kind: 'accept-plan', pins: plan.pins })
      const again = planPins(accepted, catalog)
      expect(again.kind === 'planned' && again.pins).toEqual(plan.pins)
    }), { numRuns: 60 })
  })

  test('costs the same whatever the order of the parts', () => {
    fc.assert(fc.property(boardId, parts, (board, kinds) => {
      const cost = (ks: string[]) => {
        const plan = planPins(built(board, ks), catalog, { past: 'afresh' })
        return plan.kind === 'planned' ? plan.price.cost : null
      }
      expect(cost([...kinds].reverse())).toBe(cost(kinds))
    }), { numRuns: 40 })
  })

  test('is the least there is, pairs included: against trying everything', () => {
    const cell = fc.option(fc.nat(12), { freq: 4 })
    const problems = fc.record({ rows: fc.integer({ min: 1, max: 5 }), columns: fc.integer({ min: 5, max: 7 }) }).chain(({ rows, columns }) => fc.record({
      rows: fc.constant(rows), columns: fc.constant(columns),
      cost: fc.array(cell, { minLength: rows * columns, maxLength: rows * columns }),
      couplings: fc.array(fc.record({ a: fc.nat(rows - 1), b: fc.nat(rows - 1), table: fc.array(fc.option(fc.nat(6), { freq: 5 }), { minLength: columns * columns, maxLength: columns * columns }) }), { maxLength: 4 }),
    }))
    const number = (v: number | null) => v ?? NEVER
    fc.assert(fc.property(problems, ({ rows, columns, cost, couplings: wished }) => {
      const couplings = wished.filter((c) => c.a !== c.b).map((c) => ({ a: c.a, b: c.b, table: Float64Array.from(c.table.map(number)) }))
      const price = (at: number[]) => at.reduce((sum, c, r) => sum + number(cost[r * columns + c] ?? null), 0) + couplings.reduce((sum, { a, b, table }) => sum + (table[(at[a] ?? 0) * columns + (at[b] ?? 0)] ?? 0), 0)
      const all = (at: number[]): number => at.length === rows ? price(at) : Math.min(...Array.from({ length: columns }, (_, c) => (at.includes(c) ? NEVER : all([...at, c]))))
      const least = all([])
      const found = solve({ rows, columns, cost: Float64Array.from(cost.map(number)), couplings, twins: [] })
      expect(found.proven).toBe(true)
      expect(found.columns ? price(found.columns) : NEVER).toBe(Math.min(least, NEVER))
    }), { numRuns: 400 })
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
    const outputs = pinsOf(catalog.boards['board-8266-16'] ?? (() => { throw new Error() })()).map((p) => p.label)
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
      const keptFree = Object.fromEntries(members.flatMap((m) => (m.kind === 'kept-free' && m !== member ? [[m.pin, true as const]] : [])))
      const lines = members.flatMap((m) => (m.kind === 'line' ? [m.line.split('.')[0] ?? ''] : []))
      const only = { ...design, keptFree, parts: Object.fromEntries(Object.entries(design.parts).filter(([id]) => lines.includes(id))) }
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
    for (const line of ['ranger.echo', 'pumprelay.in', 'probe.data']) expect(now.plan.pins[line]).toBe(before.plan.pins[line])
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

import { describe, expect, test } from 'vitest'
import { RULES, runChecks } from '../../src/core/checks/runChecks'
import type { Finding } from '../../src/core/checks/finding'
import type { Design } from '../../src/core/model/design'
import type { EditBody } from '../../src/core/edits/edit'
import { applyAll } from '../../src/core/alternatives/remedies'
import { wiringOf } from '../../src/core/wiring/netlist'
import { addParts, after, blank, catalog, slipTank } from '../support/designs'

const part = (partId: string, kind: string, label = partId): EditBody => ({
  kind: 'add-part',
  partId,
  part: kind,
  label,
  signals: [],
})
const found = (design: Design, rule: string): Finding[] => runChecks(design, catalog).filter((f) => f.rule === rule)

/** After any of its remedies a finding is gone, and nothing graver stands in its place. */
function everyRemedyEnds(design: Design, rule: string): number {
  const [finding] = found(design, rule)
  for (const remedy of finding?.remedies ?? []) {
    const freed = applyAll(design, remedy.edits, catalog)
    if (!freed) throw new Error(`${remedy.label} cannot be applied`)
    expect(
      found(freed, rule).map((f) => f.key),
      remedy.label,
    ).not.toContain(finding?.key)
  }
  return finding?.remedies.length ?? 0
}

test('every rule says when it applies and where it comes from', () => {
  expect(new Set(RULES.map((r) => r.id)).size).toBe(RULES.length)
  for (const rule of RULES) {
    expect(rule.when).toMatch(/\.$/)
    expect(rule.source).toMatch(/\.$/)
  }
})

test('unfinished designs of every kind are judged without a throw', () => {
  for (const board of [...Object.keys(catalog.boards), 'board-none']) {
    for (const kind of Object.keys(catalog.parts)) {
      const design = {
        ...blank('board-32-30'),
        parts: {
          thing: {
            order: 0,
            kind,
            label: 'Thing',
            settings: {},
            feeds: {},
            bus: null,
            cableM: 0.3,
            outdoor: false,
            found: null,
            rom: null,
          },
        },
        board: { id: board, version: 1 },
      }
      expect(() => runChecks(design, catalog)).not.toThrow()
    }
    expect(() =>
      runChecks(
        {
          ...blank(),
          board: { id: board, version: 1 },
          parts: {
            odd: {
              order: 0,
              kind: 'nothing',
              label: 'Odd',
              settings: {},
              feeds: {},
              bus: null,
              cableM: 0.3,
              outdoor: false,
              found: null,
              rom: null,
            },
          },
        },
        catalog,
      ),
    ).not.toThrow()
  }
})

describe('address-clash', () => {
  const two = after(blank('board-c3-16'), part('upper', 'climate-i2c-two'), part('lower', 'climate-i2c-two'))
  test('silent while addresses differ: the second part takes the free one by itself', () => {
    expect(two.parts.lower?.settings.address).toBe('0x77')
    expect(found(two, 'address-clash')).toEqual([])
  })
  test('two of one address on one bus; each way out ends it', () => {
    const clash = after(two, { kind: 'set-part', partId: 'lower', setting: 'address', value: '0x76' })
    expect(found(clash, 'address-clash')).toMatchObject([
      { severity: 'fix', sentence: 'lower and upper are both 0x76 on one bus: they answer together.' },
    ])
    expect(everyRemedyEnds(clash, 'address-clash')).toBe(1)
  })
  test('boundary: the same address on another bus is no clash, and a chip with one bus offers a multiplexer instead', () => {
    const fixed = (board: string) =>
      after(blank(board), part('one', 'climate-i2c-fixed'), part('two', 'climate-i2c-fixed'))
    expect(found(fixed('board-32-30'), 'address-clash')[0]?.remedies.map((r) => r.label)).toEqual([
      'Second bus for two',
      'Add a multiplexer',
    ])
    expect(found(fixed('board-c3-16'), 'address-clash')[0]?.remedies.map((r) => r.label)).toEqual(['Add a multiplexer'])
    expect(found(after(fixed('board-32-30'), { kind: 'set-bus', partId: 'two', bus: 'b' }), 'address-clash')).toEqual(
      [],
    )
    expect(everyRemedyEnds(fixed('board-c3-16'), 'address-clash')).toBe(1)
    expect(everyRemedyEnds(fixed('board-32-30'), 'address-clash')).toBe(2)
  })
  test('behind a multiplexer a part needs no pin, and its wires go to its branch', () => {
    const design = after(
      blank('board-c3-16'),
      part('one', 'climate-i2c-fixed'),
      part('two', 'climate-i2c-fixed'),
      part('mux', 'mux-i2c-8'),
      { kind: 'set-bus', partId: 'two', bus: 'mux:3' },
    )
    expect(Object.keys(design.plan.pins)).toEqual(['i2ca.sda', 'i2ca.scl'])
    const branch = wiringOf(design, catalog)
      .wires.filter((w) => w.from.kind === 'part' && w.from.partId === 'two' && w.to.kind === 'part')
      .map((w) => `${w.from.label} ${w.to.label}`)
    expect(branch).toEqual(['SDA SD3', 'SCL SC3'])
  })
})

describe('input-over-maximum', () => {
  const fed = (kind: string, terminal: string, rail: string) =>
    after(blank('board-32-30'), part('thing', kind), { kind: 'feed', partId: 'thing', terminal, rail })
  test('a receiver fed 5 V is a stop; fed 3.3 V it is not, and that is offered', () => {
    const design = fed('receiver-subghz', 'vcc', '5V')
    expect(found(design, 'input-over-maximum')).toMatchObject([
      { severity: 'stop', sentence: expect.stringMatching(/DATA can reach 5\.00 V; pin \w+ stands 3\.60 V/) },
    ])
    expect(found(design, 'input-over-maximum')[0]?.remedies[0]?.label).toBe('Feed VCC from 3.3 V')
    // Its high level of 0.8 · 4.3 V … 5.0 V leaves no divider: 2.55 V have to be reached and 3.6 V kept.
    expect(everyRemedyEnds(design, 'input-over-maximum')).toBe(1)
    expect(found(fed('receiver-subghz', 'vcc', '3V3'), 'input-over-maximum')).toEqual([])
  })
  test('a part with its own 3.3 V regulator may be fed 5 V', () => {
    expect(found(fed('motion-module', 'vcc', '5V'), 'input-over-maximum')).toEqual([])
    expect(found(fed('presence-radar', 'vcc', '5V'), 'input-over-maximum')).toEqual([])
  })
  test('a 12 V loop and a 4.5 V level probe carry their own voltage, whatever feeds them', () => {
    expect(found(after(blank('board-8266-16'), part('loop', 'loop-12v')), 'input-over-maximum')[0]?.sentence).toMatch(
      /14\.40 V/,
    )
    expect(
      found(after(blank('board-32-30'), part('probe', 'level-analog')), 'input-over-maximum')[0]?.sentence,
    ).toMatch(/4\.60 V/)
  })
  test('a lamp that hangs between an open contact and 5 V lifts the input', () => {
    const lit = after(blank('board-rp2040-40'), part('rocker', 'rocker-lit'), {
      kind: 'feed',
      partId: 'rocker',
      terminal: 'lamp',
      rail: '5V',
    })
    expect(found(lit, 'input-over-maximum')).toHaveLength(1)
    expect(everyRemedyEnds(lit, 'input-over-maximum')).toBeGreaterThan(0)
  })
})

describe('cautions', () => {
  test('what can hurt stands until acknowledged: by kind, or by what it is set to switch', () => {
    const keys = (design: Design) => found(design, 'caution').map((f) => f.key.split(':')[1])
    expect(keys(after(blank(), part('coil', 'contactor-mains', 'Contactor')))).toEqual(['mains'])
    expect(keys(after(blank(), part('kiln', 'thermocouple-spi', 'Kiln')))).toEqual(['heat'])
    expect(keys(after(blank(), part('cell', 'cell-18650', 'Cell')))).toEqual(['lithium'])
    const relay = after(blank(), part('relay', 'relay-module-high', 'Relay'))
    expect(keys(relay)).toEqual([])
    for (const [load, key] of [
      ['pump', 'pump'],
      ['mains load', 'mains'],
      ['heater', 'heat'],
      ['gate or door', 'gate'],
    ] as const) {
      expect(keys(after(relay, { kind: 'set-part', partId: 'relay', setting: 'load', value: load }))).toEqual([key])
    }
    for (const f of found(
      after(relay, { kind: 'set-part', partId: 'relay', setting: 'load', value: 'mains load' }),
      'caution',
    )) {
      expect(f.severity).toBe('stop')
      expect(f.caution?.text).toMatch(/licensed electrician/)
      expect(f.caution?.text).toMatch(/never|Never/)
    }
  })
})

describe('ladder-gap', () => {
  test('more keys and rougher resistors leave less between neighbours, and it says how much', () => {
    const ladder = (kind: string, board = 'board-rp2040-40') =>
      found(after(blank(board), part('pad', kind, 'Pad')), 'ladder-gap')[0]
    const gaps = (kind: string, board?: string) =>
      /Worst gap (\d+) codes at 1 %, (?:(\d+) codes|overlap by \d+ codes) at 5 %/
        .exec(ladder(kind, board)?.sentence ?? '')
        ?.slice(1)
        .map((n) => Number(n ?? 0)) ?? []
    const [five, eight] = [gaps('keys-ladder-5'), gaps('keys-ladder-8')]
    expect(five[0]).toBeGreaterThan(five[1] ?? Infinity)
    expect(five[0]).toBeGreaterThan(eight[0] ?? Infinity)
    // Eight equal steps are 512 codes; 5 % either way at the middle is 2.5 % of full scale, and the converter 1 %, on
    // both neighbours.
    expect(eight[1]).toBeGreaterThan(512 - 2 * (0.026 + 0.011) * 4095 - 60)
    expect(ladder('keys-ladder-8')?.severity).toBe('note')
    expect(ladder('keys-ladder-5')?.working?.steps).toHaveLength(5)
    // A reference of its own lets the supply's 3 % count, and 2.45 of 3.1 V leave fewer codes: five steps of 647 less 2
    // · (3 % + 1 % + 1 %) near the top.
    const own = gaps('keys-ladder-5', 'board-32-30')
    expect(own[0]).toBeLessThan(five[0] ?? 0)
    expect(own[0]).toBeGreaterThan(647 - 2 * 0.06 * 3236 - 60)
    // A0 has ten bits: a quarter of the codes.
    expect(gaps('keys-ladder-5', 'board-8266-16')[0]).toBeLessThan((five[0] ?? 0) / 3.5)
    expect(found(after(blank('board-32-30'), part('pad', 'keys-matrix-3x4', 'Pad')), 'ladder-gap')).toEqual([])
  })
})

describe('rails and grounds', () => {
  test('a part that feeds begins a rail of its own: another can be fed from it, and one that it would burn cannot', () => {
    const design = after(blank(), part('panel', 'panel-12v', 'Panel'), part('eye', 'motion-12v', 'Eye'))
    expect(design.parts.eye?.feeds.p).toBe('panel.out')
    const wires = wiringOf(design, catalog).wires.filter((w) =>
      [w.from, w.to].some((e) => e.kind === 'rail' && e.rail === 'panel.out'),
    )
    expect(wires.map((w) => (w.from.kind === 'part' ? w.from.label : ''))).toEqual(['AUX +', '12V'])
    const lamp = after(design, part('bright', 'light-i2c', 'Bright'))
    expect(() => after(lamp, { kind: 'feed', partId: 'bright', terminal: 'vcc', rail: 'panel.out' })).toThrow(
      /stands 3 to 3.6 V/,
    )
  })

  test('several parts on one bus meet at a splice, with one wire from there to the pin', () => {
    const design = after(blank('board-c3-16'), ...addParts(['climate-i2c-two', 'light-i2c', 'display-i2c']))
    const sda = wiringOf(design, catalog).wires.filter((w) => w.tag === 'SDA')
    expect(sda.filter((w) => w.from.kind === 'part')).toHaveLength(3)
    expect(sda.filter((w) => w.to.kind === 'pin').map((w) => w.to.label)).toEqual([design.plan.pins['i2ca.sda']])
  })

  test('the tank of the demo has what it had: nothing here changed its wires', () => {
    expect(
      wiringOf(slipTank(), catalog)
        .wires.map((w) => w.key)
        .sort(),
    ).toEqual(Object.keys(slipTank().wires).sort())
  })
})

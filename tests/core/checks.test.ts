import { describe, expect, test } from 'vitest'
import type { Board } from '../../src/core/catalog/board'
import type { Catalog } from '../../src/core/catalog/catalog'
import { type PartKind, partKindSchema } from '../../src/core/catalog/part'
import type { Finding } from '../../src/core/checks/finding'
import { RULES, runChecks } from '../../src/core/checks/runChecks'
import { applyEdit } from '../../src/core/edits/apply'
import type { AddedComponent, Design } from '../../src/core/model/design'
import type { EditBody } from '../../src/core/edits/edit'
import { planLines } from '../../src/core/lines/lines'
import { applyAll } from '../../src/core/alternatives/remedies'
import { railLoads } from '../../src/core/power/railLoads'
import { blank, catalog } from '../support/designs'

// Every number here is worked out on paper from data sheets and Ohm's law, not taken from the code.

const part = (partId: string, kind: string): EditBody => ({
  kind: 'add-part',
  partId,
  part: kind,
  label: partId,
  signals: [],
})
const place = (partId: string, cableM: number, outdoor = false): EditBody => ({
  kind: 'place-part',
  partId,
  set: { cableM, outdoor },
})
const feed = (partId: string, terminal: string, rail: string): EditBody => ({ kind: 'feed', partId, terminal, rail })
const set = (partId: string, setting: string, value: string | number): EditBody => ({
  kind: 'set-part',
  partId,
  setting,
  value,
})
const add = (component: AddedComponent): EditBody => ({
  kind: 'add-component',
  componentId: `x${component.type}`,
  component,
})

/** A catalogue with one part kind, or one board, changed. */
function withPart(id: string, change: (kind: PartKind) => void): Catalog {
  const kind = structuredClone(catalog.parts[id])
  if (!kind) throw new Error(id)
  change(kind)
  return { ...catalog, parts: { ...catalog.parts, [id]: partKindSchema.parse(kind) } }
}
function withBoard(id: string, change: (board: Board) => void): Catalog {
  const board = structuredClone(catalog.boards[id])
  if (!board) throw new Error(id)
  change(board)
  return { ...catalog, boards: { ...catalog.boards, [id]: board } }
}
const line = (kind: PartKind, id: string) => {
  const t = kind.terminals.find((x) => x.id === id)
  if (t?.role !== 'line') throw new Error(id)
  return t
}

interface Bench {
  on?: string
  from?: Catalog
}
function bench(edits: EditBody[], { on = 'board-32-30', from = catalog }: Bench = {}): Design {
  return edits.reduce((design, edit) => {
    const applied = applyEdit(design, edit, from)
    if (!applied.ok) throw new Error(`${edit.kind}: ${applied.reason}`)
    return applied.design
  }, blank(on))
}
const after4A = (design: Design): Design => applyAll(design, [set('stage', 'loadA', 4)], catalog) ?? design
/** Rules whose cases stand in tests/core/harm.test.ts and tests/core/analog.test.ts. */
const IN_HARM = [
  'awake-consumers',
  'back-feed',
  'contact-arc',
  'isolation-bridged',
  'lamp-string',
  'load-loose',
  'load-not-wired',
  'no-longest-time',
  'opposing-outputs',
  'pass-through',
  'pin-asks',
  'played-contact',
  'pwm-too-fast',
  'second-feed',
  'sleep-unfit',
  'supply-range',
  'swings-below-ground',
  'tamper-in-loop',
  'warm-up-too-long',
]
const seen = new Set<string>()
function found(rule: string, design: Design, from = catalog): Finding[] {
  const findings = runChecks(design, from).filter((f) => f.rule === rule)
  if (findings.length > 0) seen.add(rule)
  return findings
}
const results = (f: Finding | undefined) => f?.working?.steps.map((s) => s.result) ?? []

/** Every remedy of the first finding ends it, and is undone by its inverse as a whole. */
function remediesEnd(rule: string, design: Design, from = catalog): string[] {
  const [finding] = found(rule, design, from)
  return (finding?.remedies ?? []).map((remedy) => {
    const mended = applyAll(design, remedy.edits, from)
    if (!mended) throw new Error(`${rule}: “${remedy.label}” cannot be applied`)
    expect(
      found(rule, mended, from).filter((f) => f.key === finding?.key && f.severity === finding.severity),
      remedy.label,
    ).toEqual([])
    return remedy.label
  })
}

describe('levels', () => {
  test('level-not-reached: a 5 V lamp string wants 3.5 V, the board gives 3.2 V; a shifter ends it, 3.2 V wanted is silent', () => {
    const design = bench([part('lamps', 'led-string')])
    expect(found('level-not-reached', design)).toMatchObject([
      { severity: 'fix', sentence: 'lamps DIN reads high from 3.50 V; the board gives 3.20 V.' },
    ])
    expect(remediesEnd('level-not-reached', design)).toEqual(['Level shifter to 5 V'])
    for (const [v, n] of [
      [3.2, 0],
      [3.201, 1],
    ] as const) {
      const from = withPart('led-string', (k) => {
        const i = line(k, 'din').input
        if (i) i.highMinV = v
      })
      expect(found('level-not-reached', bench([part('lamps', 'led-string')], { from }), from)).toHaveLength(n)
    }
  })

  test('level-not-reached: an output of 0.75 · 3.4 V = 2.55 V or more reads high; its low level up to 0.25 · 3.2 V = 0.80 V', () => {
    const own = (highMinV: number, lowMaxV: number) =>
      withPart('motion-module', (k) => {
        line(k, 'out').output = { kind: 'fixed', highMinV, highMaxV: 3.4, lowMaxV, maxA: 0.002 }
      })
    for (const [high, low, n] of [
      [2.551, 0.4, 0],
      [2.549, 0.4, 1],
      [3, 0.8, 0],
      [3, 0.81, 1],
    ] as const) {
      const from = own(high, low)
      expect(
        found('level-not-reached', bench([part('eye', 'motion-module')], { from }), from),
        `${high} ${low}`,
      ).toHaveLength(n)
    }
  })

  test('cannot-release: 5.0 − 3.2 = 1.8 V stay across a 5 V module; fed 3.3 V only 0.2 V stay', () => {
    const five = bench([part('relay', 'relay-module-5v-low')])
    expect(found('cannot-release', five)).toMatchObject([
      { severity: 'stop', sentence: expect.stringMatching(/1\.80 V stay across IN/) },
    ])
    expect(remediesEnd('cannot-release', five)).toEqual(['Transistor in between'])
    const separate = bench([part('relay', 'relay-module-low')])
    expect(separate.parts.relay?.feeds.vcc).toBe('3V3')
    expect(found('cannot-release', separate)).toEqual([])
    const joined = bench([part('relay', 'relay-module-low'), feed('relay', 'vcc', '5V')])
    expect(remediesEnd('cannot-release', joined)).toEqual(['Feed VCC from 3.3 V', 'Transistor in between'])
    // Off surely from 4.0 V: 5.25 − 4.0 = 1.25 V may stay. A rail of 4.45 V leaves exactly that.
    for (const [max, n] of [
      [4.45, 0],
      [4.46, 1],
    ] as const) {
      const from = withBoard('board-32-30', (b) => {
        const r = b.rails.find((x) => x.id === '5V')
        if (r) {
          r.max = max
          r.min = 4.4
        }
      })
      const lowFed = {
        ...from,
        parts: withPart('relay-module-5v-low', (k) => {
          const s = k.terminals.find((t) => t.id === 'vcc')
          if (s?.role === 'supply') s.minV = 4
          const i = line(k, 'in').input
          if (i) i.highMinV = max - 1.25
        }).parts,
      }
      expect(
        found('cannot-release', bench([part('relay', 'relay-module-5v-low')], { from: lowFed }), lowFed),
      ).toHaveLength(n)
    }
  })

  test('a transistor turns an active-low input round: high at the pin switches it on, and it rests low', () => {
    const design = bench([
      part('relay', 'relay-module-5v-low'),
      add({
        type: 'driver',
        line: 'relay.in',
        names: ['Q1', 'R1', 'R2'],
        device: 'npn',
        seriesOhm: 4700,
        holdOhm: 10_000,
        tolerance: 0.05,
      }),
    ])
    const [l] = planLines(design, catalog)
    expect(l).toMatchObject({
      inverted: true,
      terminal: { rest: { level: 'low', ownPullOhm: 10_000 }, board: 'drives' },
    })
    expect(found('moves-at-power-up', design)).toEqual([])
  })

  test('bus-pull-over: a display fed 5 V leads its 10 kΩ to 5.0 V, above 3.6 V', () => {
    const design = bench([part('screen', 'display-i2c'), feed('screen', 'vcc', '5V')])
    expect(found('bus-pull-over', design)).toMatchObject([
      { severity: 'stop', sentence: expect.stringMatching(/5 V, up to 5\.00 V; the pins stand 3\.60 V/) },
    ])
    expect(remediesEnd('bus-pull-over', design)).toEqual(['Feed VCC from 3.3 V'])
    for (const [max, n] of [
      [3.6, 0],
      [3.601, 1],
    ] as const) {
      const from = withBoard('board-32-30', (b) => {
        const r = b.rails.find((x) => x.id === '3V3')
        if (r) r.max = max
      })
      expect(
        found('bus-pull-over', bench([part('screen', 'display-i2c'), feed('screen', 'vcc', '3V3')], { from }), from),
      ).toHaveLength(n)
    }
  })
})

describe('currents', () => {
  test('pin-current: a coil of 5 V and 70 Ω takes 71 mA, a pin of this class gives 20; the 8266-class 12 mA', () => {
    const design = bench([
      part('relay', 'relay-bare'),
      add({ type: 'pull', line: 'relay.in', names: ['R1'], level: 'low', ohm: 10_000, tolerance: 0.05 }),
    ])
    expect(found('pin-current', design)).toMatchObject([
      { severity: 'stop', sentence: 'relay COIL − takes 71 mA; a pin gives 20 mA.' },
    ])
    expect(remediesEnd('pin-current', design)).toHaveLength(1)
    for (const [a, on, n] of [
      [0.02, 'board-32-30', 0],
      [0.0201, 'board-32-30', 1],
      [0.012, 'board-8266-16', 0],
      [0.0121, 'board-8266-16', 1],
    ] as const) {
      const from = withPart('sounder', (k) => {
        const i = line(k, 'a').input
        if (i) i.maxA = a
      })
      expect(found('pin-current', bench([part('horn', 'sounder')], { on, from }), from), `${a} on ${on}`).toHaveLength(
        n,
      )
    }
  })

  test('chip-current: five lamps of 12 mA are 60 mA, and the RP2040 gives 50; four are 48', () => {
    const horns = (n: number) =>
      bench(
        Array.from({ length: n }, (_, i) => part(`horn${i}`, 'sounder')),
        { on: 'board-rp2040-40' },
      )
    expect(found('chip-current', horns(5))).toMatchObject([
      { severity: 'fix', sentence: expect.stringMatching(/may take 60 mA; the chip gives 50 mA/) },
    ])
    expect(found('chip-current', horns(4))).toEqual([])
  })

  test('lamp-without-resistor: (3.4 − 2.0) V / 8 mA = 175 Ω, so 180 Ω of E24', () => {
    const design = bench([part('lamp', 'led-bare')])
    expect(found('lamp-without-resistor', design)).toMatchObject([{ severity: 'stop' }])
    expect(remediesEnd('lamp-without-resistor', design)).toEqual(['Add 180 Ω in series'])
    // Behind 47 Ω, 5 %: 1.4 V / 44.65 Ω = 31 mA, above the pin's 20; behind 180 Ω 8.2 mA.
    const behind = (ohm: number) =>
      bench([part('lamp', 'led-bare'), add({ type: 'series', line: 'lamp.a', names: ['R1'], ohm, tolerance: 0.05 })])
    expect(found('pin-current', behind(47))[0]?.sentence).toMatch(/31\.4 mA/)
    expect([...found('pin-current', behind(180)), ...found('lamp-without-resistor', behind(180))]).toEqual([])
    expect(found('lamp-without-resistor', bench([part('lamp', 'led-pwm')]))).toEqual([])
  })

  test('coil-without-path: a bare coil and a motor behind a FET want a diode; a module with its own driver does not', () => {
    const bare = bench([
      part('relay', 'relay-bare'),
      add({ type: 'pull', line: 'relay.in', names: ['R1'], level: 'low', ohm: 10_000, tolerance: 0.05 }),
    ])
    expect(found('coil-without-path', bare)).toMatchObject([{ severity: 'stop' }])
    expect(remediesEnd('coil-without-path', bare)).toEqual(['Diode, 1 A, across the coil'])
    const stage = (load: string) => bench([part('stage', 'fet-stage'), set('stage', 'load', load)])
    // A pump of 1 A behind a stage under pulse width: a fast diode of 1 A; of 4 A one of 5 A, and neither the ordinary
    // nor the small one will do.
    expect(remediesEnd('coil-without-path', stage('pump'))).toEqual(['Schottky diode, 1 A, across the coil'])
    const strong = after4A(stage('pump'))
    expect(remediesEnd('coil-without-path', strong)).toEqual(['Schottky diode, 5 A, across the coil'])
    const with_ = (ratedA: number, fast: boolean) =>
      found(
        'coil-without-path',
        applyAll(strong, [add({ type: 'diode', line: 'stage.g', names: ['D1'], ratedA, fast })], catalog) ?? strong,
      )
    expect([with_(5, true), with_(3, true), with_(5, false)].map((f) => f.length)).toEqual([0, 1, 1])
    expect(found('coil-without-path', stage('lamp up to 24 V'))).toEqual([])
    expect(
      found('coil-without-path', bench([part('relay', 'relay-module-high'), set('relay', 'load', 'pump')])),
    ).toEqual([])
  })

  test('contact-rating: 10 A contacts stand 3 A of lamp (30 A for a moment), not 3.1 A; a motor 5 A, not 5.1 A; no mains on 30 V', () => {
    const relay = (load: string, a: number) =>
      bench([part('relay', 'relay-module-high'), set('relay', 'load', load), set('relay', 'loadA', a)])
    for (const [load, a, n] of [
      ['lamp up to 24 V', 3, 0],
      ['lamp up to 24 V', 3.1, 1],
      ['pump', 5, 0],
      ['pump', 5.1, 1],
      ['heater', 10, 0],
      ['heater', 10.1, 1],
    ] as const)
      expect(found('contact-rating', relay(load, a)), `${load} ${a}`).toHaveLength(n)
    const from = withPart('relay-module-high', (k) => {
      k.contacts = { dcV: 30, dcA: 10, acV: 125, acA: 10 }
    })
    expect(
      found(
        'contact-rating',
        bench([part('relay', 'relay-module-high'), set('relay', 'load', 'heater')], { from }),
        from,
      )[0]?.sentence,
    ).toMatch(/230 V on contacts for 125 V/)
  })
})

describe('inputs', () => {
  test('floating-input: a button on a pin that only reads has no pull; one with a pull inside is silent', () => {
    const on = (pin: string) => bench([part('button', 'button-ground'), { kind: 'lock', line: 'button.a', pin }])
    expect(found('floating-input', on('D34'))).toMatchObject([
      { severity: 'fix', sentence: expect.stringMatching(/“released”, and D34 has no pull inside/) },
    ])
    expect(remediesEnd('floating-input', on('D34'))).toEqual(['Add 10 kΩ to 3.3 V'])
    expect(found('floating-input', on('D23'))).toEqual([])
    // Long wires ask for 2.2 to 4.7 kΩ; 2 m is still short.
    const far = (m: number) =>
      found(
        'floating-input',
        bench([part('button', 'button-ground'), { kind: 'lock', line: 'button.a', pin: 'D34' }, place('button', m)]),
      )[0]?.remedies[0]?.label
    expect([far(2), far(2.1)]).toEqual(['Add 10 kΩ to 3.3 V', 'Add 3.3 kΩ to 3.3 V'])
  })

  test('leakage: a pull-up of 45 kΩ · 1.5 lets 0.8 V of margin fall at 11.9 µA', () => {
    for (const [leakA, n] of [
      [11.8e-6, 0],
      [11.9e-6, 1],
    ] as const) {
      const from = withPart('pressure-mat', (k) => {
        line(k, 'a').leakA = leakA
      })
      const design = bench([part('mat', 'pressure-mat'), { kind: 'lock', line: 'mat.a', pin: 'D23' }], { from })
      expect(found('leakage', design, from), `${leakA}`).toHaveLength(n)
      if (n === 1) expect(remediesEnd('leakage', design, from)).toEqual(['33 kΩ to 3.3 V'])
    }
  })

  test('long-wire: longer than 2 m or outdoors wants a series resistor, a clamp and a stronger pull', () => {
    const button = (m: number, outdoor: boolean) =>
      bench([part('button', 'button-ground'), place('button', m, outdoor)])
    expect(found('long-wire', button(2, false))).toEqual([])
    expect(found('long-wire', button(2.1, false))).toMatchObject([{ severity: 'note' }])
    expect(found('long-wire', button(0.5, true))).toMatchObject([{ severity: 'fix' }])
    // 3.4 V · 470 / (470 + 3300) = 0.42 V, still low.
    expect(results(found('long-wire', button(5, true))[0])[0]).toBe('0.42 V of 0.80 V')
    expect(remediesEnd('long-wire', button(5, true))).toEqual(['Add 470 Ω, clamp, 3.3 kΩ pull'])
  })

  test('wet-contact: a contact with 24 V of its own needs light in between: (24.5 − 1.2) / 5 mA = 4.66 kΩ, 4.3 kΩ', () => {
    const wet = bench([part('flow', 'contact-dry'), set('flow', 'carries', '24 V of its own')])
    expect(found('wet-contact', wet)).toMatchObject([
      {
        severity: 'stop',
        sentence: expect.stringMatching(/carries 21\.00 V to 28\.00 V; the input is for a bare contact/),
      },
    ])
    expect(remediesEnd('wet-contact', wet)).toEqual(['Optocoupler behind 4.3 kΩ'])
    expect(found('wet-contact', bench([part('flow', 'contact-dry')]))).toEqual([])
    const ac = applyAll(
      bench([part('flow', 'contact-dry'), set('flow', 'carries', '24 V AC of its own')]),
      found('wet-contact', bench([part('flow', 'contact-dry'), set('flow', 'carries', '24 V AC of its own')]))[0]
        ?.remedies[0]?.edits ?? [],
      catalog,
    )
    expect(ac && found('coupler-input', ac)).toMatchObject([
      { severity: 'note', sentence: expect.stringMatching(/hundred times a second/) },
    ])
  })

  test('coupler-input: 12 V loops give (10.5 − 1.2) / (R·1.05); 2 mA are reached up to 4.43 kΩ, and 20 mA are passed below 695 Ω', () => {
    const loop = (seriesOhm: number) =>
      bench([
        part('loop', 'loop-12v'),
        add({ type: 'optocoupler', line: 'loop.z', names: ['U1', 'R1', 'D1'], seriesOhm, tolerance: 0.05 }),
      ])
    expect(found('input-over-maximum', loop(2200))).toEqual([])
    for (const [ohm, n] of [
      [4420, 0],
      [4440, 1],
      [700, 0],
      [690, 1],
    ] as const)
      expect(found('coupler-input', loop(ohm)), `${ohm}`).toHaveLength(n)
    expect(found('coupler-input', loop(690))[0]?.sentence).toMatch(/20\.1 mA flow through its lamp, which stands 20 mA/)
    expect(remediesEnd('coupler-input', loop(690))).toEqual(['Change R1 to 2.2 kΩ'])
    // With 1 kΩ as pull the transistor has to take 3.4 mA, and surely gives ¼ of 4.03 mA.
    const strong = bench([
      part('loop', 'loop-12v'),
      add({ type: 'optocoupler', line: 'loop.z', names: ['U1', 'R1', 'D1'], seriesOhm: 2200, tolerance: 0.05 }),
      add({ type: 'pull', line: 'loop.z', names: ['R2'], level: 'high', ohm: 1000, tolerance: 0.05 }),
    ])
    expect(found('coupler-input', strong)[0]?.sentence).toMatch(/surely pulls 1\.01 mA, and the pull-up gives 3\.4 mA/)
  })

  test('lamp-in-switch: fed 12.6 V the lamp shines through the pin with (12.6 − 1.9 − 3.6) / 470 = 15.1 mA while the switch is open', () => {
    const fed = (rail: string) =>
      bench([part('supply', 'supply-12v'), part('rocker', 'rocker-lit'), feed('rocker', 'lamp', rail)], {
        on: 'board-rp2040-40',
      })
    expect(found('lamp-in-switch', fed('supply.out'))).toMatchObject([
      { severity: 'stop', sentence: expect.stringMatching(/15\.1 mA through the pin/) },
    ])
    expect(remediesEnd('lamp-in-switch', fed('supply.out'))).toEqual(['Feed LAMP + from 3.3 V'])
    // From 3.4 V it shines closed, with (3.4 − 1.9) / 470 = 3.19 mA.
    expect(found('lamp-in-switch', fed('3V3'))).toMatchObject([
      { severity: 'note', sentence: expect.stringMatching(/while the switch is closed, with 3\.19 mA/) },
    ])
    expect(found('lamp-in-switch', bench([part('toggle', 'toggle-ground')]))).toEqual([])
  })

  test('loop-states: equal resistors put the loop at 1.63 V on A0 with its 320 kΩ; 47 kΩ leaves the closed loop at 0.35 V', () => {
    const loop = (ohm: number) =>
      bench(
        [
          part('loop', 'loop-end-resistor'),
          add({ type: 'pull', line: 'loop.z', names: ['R1'], level: 'high', ohm, tolerance: 0.01 }),
        ],
        { on: 'board-8266-16' },
      )
    expect(found('loop-states', loop(5600))).toMatchObject([
      { severity: 'note', sentence: expect.stringMatching(/shorted 0\.00 V, intact 1\.63 V, cut 3\.20 V/) },
    ])
    expect(found('loop-states', loop(47_000))).toMatchObject([{ severity: 'fix' }])
    expect(remediesEnd('loop-states', loop(47_000))).toEqual(['Change R1 to 5.6 kΩ'])
  })
})

test('matrix-ghosts: said where diodes are left out, and only there', () => {
  const pad = (diodes: string) => bench([part('pad', 'keys-matrix-3x4'), set('pad', 'diodes', diodes)])
  expect(found('matrix-ghosts', pad('yes'))).toEqual([])
  expect(found('matrix-ghosts', pad('no'))).toMatchObject([{ severity: 'note' }])
  expect(remediesEnd('matrix-ghosts', pad('no'))).toEqual(['Fit a diode to each key'])
  expect(found('matrix-ghosts', bench([part('pad', 'keys-ladder-5')]))).toEqual([])
})

describe('buses', () => {
  const climates = (n: number, m: number) =>
    bench(
      Array.from({ length: n }, (_, i) => [
        part(`c${i}`, i % 2 ? 'light-i2c' : 'climate-i2c-two'),
        place(`c${i}`, m),
      ]).flat(),
    )
  test('bus-edges: R_max = 1000 ns / (0.8473 · C), R_min = 3.0 V / 3 mA = 1 kΩ', () => {
    // One part of 10 kΩ on 1 m: 10 + 10 + 100 pF = 120 pF → 9.83 kΩ at most. On 0.98 m: 118 pF → 10.0 kΩ.
    expect(found('bus-edges', climates(1, 0.98))).toEqual([])
    expect(found('bus-edges', climates(1, 1))).toHaveLength(2)
    expect(found('bus-edges', climates(1, 1))[0]?.sentence).toMatch(
      /10 kΩ, and its edges need 9\.84 kΩ or less|10 kΩ, and its edges need 9\.83 kΩ or less/,
    )
    expect(remediesEnd('bus-edges', climates(1, 1))).toHaveLength(1)
    const strong = bench([
      part('c0', 'climate-i2c-two'),
      add({ type: 'pull', line: 'i2ca.sda', names: ['R1'], level: 'high', ohm: 1100, tolerance: 0.05 }),
    ])
    // 10 kΩ ‖ 1.1 kΩ = 991 Ω, below 1 kΩ; with 1.2 kΩ 1071 Ω.
    expect(found('bus-edges', strong)[0]?.sentence).toMatch(/together are 991 Ω/)
    expect(
      found(
        'bus-edges',
        bench([
          part('c0', 'climate-i2c-two'),
          add({ type: 'pull', line: 'i2ca.sda', names: ['R1'], level: 'high', ohm: 1200, tolerance: 0.05 }),
        ]),
      ),
    ).toEqual([])
    // Four parts on 1 m each: 10 + 4 · 110 = 450 pF, over 400.
    expect(found('bus-edges', climates(4, 1))[0]?.sentence).toMatch(/450 pF hang on it; the bus stands 400 pF/)
  })

  test('bus-edges: a bus without any pull says so', () => {
    const from = withPart('climate-i2c-two', (k) => {
      if (k.i2c) k.i2c.pull = null
    })
    const design = bench([part('c0', 'climate-i2c-two')], { from })
    expect(found('bus-edges', design, from)[0]?.sentence).toMatch(/nothing pulls it up/)
    expect(remediesEnd('bus-edges', design, from)).toHaveLength(1)
  })

  test('bus-too-long: I²C from 1 m a note and from 2 m a fix, SPI from 0.3 m, one-wire as a star of long cables', () => {
    const severity = (edits: EditBody[]) => found('bus-too-long', bench(edits)).map((f) => f.severity)
    const bus = (kind: string, m: number) => severity([part('aa', kind), place('aa', m)])
    expect([bus('climate-i2c-two', 1), bus('climate-i2c-two', 1.1), bus('climate-i2c-two', 2.1)]).toEqual([
      [],
      ['note'],
      ['fix'],
    ])
    expect([bus('thermocouple-spi', 0.3), bus('thermocouple-spi', 0.31), bus('thermocouple-spi', 0.7)]).toEqual([
      [],
      ['note'],
      ['fix'],
    ])
    const star = (n: number) =>
      severity(
        Array.from({ length: n }, (_, i) => [
          part(`t${i}`, 'thermometer-one-wire'),
          { kind: 'set-bus', partId: `t${i}`, bus: 'a' } as EditBody,
          place(`t${i}`, 4),
        ]).flat(),
      )
    expect([star(2), star(3)]).toEqual([[], ['fix']])
  })
})

describe('converter', () => {
  test('adc-span: 4.5 V at a converter that measures to 2.45 V; divided it fits, in steps of millimetres', () => {
    const probe = bench([part('probe', 'level-analog')])
    const labels = remediesEnd('adc-span', probe)
    expect(labels).toHaveLength(1)
    const mended = applyAll(probe, found('adc-span', probe)[0]?.remedies[0]?.edits ?? [], catalog)
    const divider = Object.values(mended?.added ?? {})[0]
    if (divider?.type !== 'divider') throw new Error('no divider')
    // Worst case by hand, with the probe's own 100 Ω: 4.5 · R2·1.01 / (100 + R1·0.99 + R2·1.01) at most 2.45 V, and not
    // below nine tenths of it.
    const worst = (4.5 * divider.bottomOhm * 1.01) / (100 + divider.topOhm * 0.99 + divider.bottomOhm * 1.01)
    expect(worst).toBeLessThanOrEqual(2.45)
    expect(worst).toBeGreaterThan(2.2)
    for (const [max, n] of [
      [2.45, 0],
      [2.46, 1],
    ] as const) {
      const from = withPart('soil-analog', (k) => {
        line(k, 'out').spanV = { min: 0.9, max }
      })
      expect(found('adc-span', bench([part('soil', 'soil-analog')], { from }), from)).toHaveLength(n)
    }
  })

  test('adc-source: above 10 kΩ a capacitor; what loads a weak source belongs to its scale and is no finding', () => {
    const from = (ohm: number) =>
      withPart('soil-analog', (k) => {
        line(k, 'out').sourceOhm = ohm
      })
    expect(found('adc-source', bench([part('soil', 'soil-analog')], { from: from(10_000) }), from(10_000))).toEqual([])
    const weak = bench([part('soil', 'soil-analog')], { from: from(10_100) })
    expect(found('adc-source', weak, from(10_100))).toMatchObject([{ severity: 'fix' }])
    expect(remediesEnd('adc-source', weak, from(10_100))).toEqual(['Add 100 nF at the pin'])
    expect(found('adc-source', bench([part('soil', 'soil-analog')], { on: 'board-8266-16' }))).toEqual([])
  })
})

describe('supplies', () => {
  test('rails: parts, the radio and the regulator add up; a converter passes on V · I / (0.85 · V_in)', () => {
    const design = bench(
      [
        part('panel', 'panel-12v'),
        part('conv', 'converter-12-5'),
        feed('conv', 'vin', 'panel.out'),
        { kind: 'feed-board', rail: 'conv.out' },
        part('relay', 'relay-module-high'),
      ],
      { on: 'board-8266-16' },
    )
    const load = (id: string) =>
      railLoads(
        design,
        catalog.boards['board-8266-16'] ??
          (() => {
            throw new Error()
          })(),
        catalog,
      ).find((r) => r.rail.id === id)?.peakA ?? 0
    expect(load('3V3')).toBeCloseTo(0.4, 9)
    expect(load('5V')).toBeCloseTo(0.4 + 0.072, 9)
    expect(load('conv.out')).toBeCloseTo(0.472, 9)
    // 5.15 V · 0.472 A / (0.85 · 10.5 V)
    expect(load('panel.out')).toBeCloseTo(0.2724, 3)
  })

  test('rail-overload: a burst of the radio is bridged by C = (I − I_limit) · 3 ms / 0.3 V; what lasts is a stop', () => {
    const relays = (n: number) =>
      bench(
        Array.from({ length: n }, (_, i) => part(`r${i}`, 'relay-module-high')),
        { on: 'board-8266-16' },
      )
    // 400 + 72 = 472 mA of 500: near; 544 mA: over for a burst of 325 mA, 219 mA without it.
    expect(found('rail-overload', relays(1))).toMatchObject([{ severity: 'note' }])
    const two = found('rail-overload', relays(2)).find((f) => f.key.endsWith(':5V'))
    expect(two).toMatchObject({
      severity: 'fix',
      sentence: expect.stringMatching(/544 mA for the moment of a radio burst; USB gives 500 mA/),
    })
    // 44 mA · 3 ms / 0.3 V = 440 µF → 470 µF.
    expect(two?.remedies[0]?.label).toBe('Capacitor 470 µF at 5 V')
    expect(remediesEnd('rail-overload', relays(2))[0]).toBe('Capacitor 470 µF at 5 V')
    // Six relays and the chip at work: 6 · 72 + 75 = 507 mA for as long as they are on.
    expect(found('rail-overload', relays(6)).find((f) => f.key.endsWith(':5V'))).toMatchObject({ severity: 'stop' })
  })

  test('regulator-headroom: a cell at 3.0 V less 0.35 V is below 3.2 V; a step-up ends it, and 3.55 V would do', () => {
    const cell = bench([part('cell', 'cell-18650'), { kind: 'feed-board', rail: 'cell.p' }], { on: 'board-c3-16' })
    expect(found('regulator-headroom', cell)).toMatchObject([
      {
        severity: 'fix',
        sentence: expect.stringMatching(/falls to 3\.00 V; with 0\.35 V of drop-out the board keeps 2\.65 V/),
      },
    ])
    expect(remediesEnd('regulator-headroom', cell)).toEqual(['Step-up converter to 5 V'])
    for (const [min, n] of [
      [3.55, 0],
      [3.54, 1],
    ] as const) {
      const from = withPart('cell-18650', (k) => {
        const s = k.terminals.find((t) => t.id === 'p')
        if (s?.role === 'source') s.minV = min
      })
      expect(
        found(
          'regulator-headroom',
          bench([part('cell', 'cell-18650'), { kind: 'feed-board', rail: 'cell.p' }], { on: 'board-c3-16', from }),
          from,
        ),
      ).toHaveLength(n)
    }
    // The RP2040 board converts from 1.8 V up.
    expect(
      found(
        'regulator-headroom',
        bench([part('cell', 'cell-18650'), { kind: 'feed-board', rail: 'cell.p' }], { on: 'board-rp2040-40' }),
      ),
    ).toEqual([])
  })

  test('regulator-heat: (V_in − 3.3 V) · 75 mA · 180 K/W passes 60 K at 7.74 V in', () => {
    for (const [max, n] of [
      [7.7, 0],
      [7.8, 1],
    ] as const) {
      const from = withBoard('board-8266-16', (b) => {
        const r = b.rails.find((x) => x.id === '5V')
        if (r) r.max = max
      })
      expect(found('regulator-heat', bench([], { on: 'board-8266-16', from }), from), `${max}`).toHaveLength(n)
    }
  })

  test('two-supplies: fix where no diode keeps them apart, note where one does, silent on USB alone', () => {
    const fed = (on: string) =>
      found(
        'two-supplies',
        bench([part('supply', 'supply-5v'), { kind: 'feed-board', rail: 'supply.out' }], { on }),
      ).map((f) => f.severity)
    expect([fed('board-8266-16'), fed('board-32-30')]).toEqual([['fix'], ['note']])
    expect(found('two-supplies', bench([part('supply', 'supply-5v')]))).toEqual([])
    expect(() =>
      bench([part('panel', 'panel-12v'), { kind: 'feed-board', rail: 'panel.out' }], { on: 'board-8266-16' }),
    ).toThrow(/the board stands 5\.5 V at its supply; panel AUX \+ reaches 14\.4 V/)
  })

  test('wire-drop: a strip of 2 A at 11.4 V over 8 m of 0.5 mm² loses 2 · 8 · 0.0189 · 2 / 0.5 = 1.2 V and needs 11; 1.5 mm² still lose 0.403 V', () => {
    const strip = (m: number) =>
      bench([part('supply', 'supply-12v'), part('strip', 'strip-two-white'), place('strip', m)])
    expect(found('wire-drop', strip(8))[0]?.sentence).toMatch(
      /gets 10\.19 V at its peak over 8 m of 0\.5 mm²; it needs 11\.00 V/,
    )
    expect(results(found('wire-drop', strip(8))[0])).toEqual(['1.21 V'])
    expect(remediesEnd('wire-drop', strip(8))).toEqual(['Take 2.5 mm²'])
    // 0.4 V may be lost: 2.65 m.
    expect(found('wire-drop', strip(2.6))).toEqual([])
    expect(found('wire-drop', strip(2.7))).toHaveLength(1)
  })

  test('fuse-missing: cells and strong supplies; a fuse between 1.25 · load and 6 A/mm² · 0.5 mm² = 3 A is silent', () => {
    const cell = bench([part('cell', 'cell-18650')])
    expect(found('fuse-missing', cell)).toMatchObject([{ severity: 'fix' }])
    expect(remediesEnd('fuse-missing', cell)).toHaveLength(1)
    const fused = (ratedA: number) =>
      found(
        'fuse-missing',
        bench([part('cell', 'cell-18650'), add({ type: 'fuse', rail: 'cell.p', names: ['F1'], ratedA, slow: false })]),
      )
    expect(fused(3)).toEqual([])
    expect(fused(3.15)[0]?.sentence).toMatch(/F1 of cell lets 3\.15 A through 0\.5 mm², which carries 3 A/)
    expect(found('fuse-missing', bench([part('supply', 'supply-5v')]))).toEqual([])
  })

  test('bulk-missing: steps above 0.3 A; 0.69 A · 1 ms / 0.5 V = 1380 µF, 1500 µF', () => {
    const servo = bench([part('supply', 'supply-5v'), part('servo', 'servo'), feed('servo', 'v', 'supply.out')])
    expect(found('bulk-missing', servo)).toMatchObject([{ severity: 'note' }])
    expect(remediesEnd('bulk-missing', servo)).toEqual(['Add 1500 µF'])
    expect(
      found(
        'bulk-missing',
        bench([part('fan', 'fan-12v'), part('supply', 'supply-12v'), feed('fan', 'p', 'supply.out')]),
      ),
    ).toEqual([])
  })

  test('supply-open: a part no rail suits is said, with what cannot be judged; feeding it ends that', () => {
    const open = bench([part('eye', 'motion-12v')])
    expect(found('supply-open', open)).toMatchObject([
      {
        severity: 'fix',
        sentence: expect.stringMatching(/eye 12V is not fed \(it takes 9 to 16 V\).*cannot be judged yet/),
      },
    ])
    const offered = bench([part('eye', 'motion-12v'), part('supply', 'supply-12v')])
    expect(remediesEnd('supply-open', offered)).toEqual(['Feed it from supply +12V'])
  })

  test('ac-for-dc: a bell transformer feeds nothing that wants direct current', () => {
    const from = withPart('fan-12v', (k) => {
      const s = k.terminals.find((t) => t.id === 'p')
      if (s?.role === 'supply') s.maxV = 24
    })
    const ac = bench([part('bell', 'bell-transformer'), part('fan', 'fan-12v')], { from })
    expect(ac.parts.fan?.feeds.p).toBeUndefined()
    const wrong = bench(
      [
        part('bell', 'bell-transformer'),
        part('fan', 'fan-12v'),
        part('supply', 'supply-12v'),
        feed('fan', 'p', 'bell.out'),
      ],
      { from },
    )
    expect(found('ac-for-dc', wrong, from)).toMatchObject([
      { severity: 'stop', sentence: expect.stringMatching(/peaks at 22\.63 V/) },
    ])
    expect(remediesEnd('ac-for-dc', wrong, from)).toEqual(['Feed + from supply +12V'])
  })

  test('no-common-ground: a point inside an appliance is never joined, only across a coupler', () => {
    const tap = bench([part('tap', 'appliance-point')])
    expect(found('no-common-ground', tap)).toMatchObject([
      { severity: 'stop', sentence: expect.stringMatching(/never join its ground to this board/) },
    ])
    expect(remediesEnd('no-common-ground', tap)).toHaveLength(1)
    expect(found('caution', tap)[0]?.caution?.text).toMatch(/never|Never/)
    expect(found('no-common-ground', bench([part('loop', 'loop-12v')]))).toEqual([])
  })
})

describe('pins made otherwise', () => {
  const made = (kind: string, lineKey: string, pin: string, on = 'board-32-30') =>
    bench([part('thing', kind), { kind: 'made-otherwise', line: lineKey, pin }], { on })
  test('strap-fought: a reed contact that closes GP0’s strap to ground stops the 8266-class from starting', () => {
    const fought = made('contact-reed', 'thing.a', 'D3', 'board-8266-16')
    expect(found('strap-fought', fought)).toMatchObject([
      { severity: 'stop', sentence: expect.stringMatching(/D3: must be high at reset/) },
    ])
    expect(remediesEnd('strap-fought', fought).length).toBeGreaterThan(0)
    expect(found('strap-fought', made('contact-reed', 'thing.a', 'D5', 'board-8266-16'))).toEqual([])
  })
  test('moves-at-power-up: a relay on a pin that pulses or is high while the chip starts', () => {
    expect(found('moves-at-power-up', made('relay-module-high', 'thing.in', 'D0', 'board-8266-16'))).toMatchObject([
      { severity: 'stop' },
    ])
    expect(found('moves-at-power-up', made('relay-module-high', 'thing.in', 'D1', 'board-8266-16'))).toEqual([])
  })
  test('pin-unfit: a pin that cannot do it; wire-left-over: the wire that was made before', () => {
    const wrong = made('relay-module-high', 'thing.in', 'D35')
    expect(found('pin-unfit', wrong)).toMatchObject([
      { severity: 'stop', sentence: expect.stringMatching(/only reads/) },
    ])
    const planned = bench([part('button', 'button-ground')])
    const key = Object.keys(planned.wires).find((k) => k.includes('button.a')) ?? ''
    const moved = applyAll(
      planned,
      [
        { kind: 'mark-wire', wire: key, made: true },
        { kind: 'lock', line: 'button.a', pin: planned.plan.pins['button.a'] === 'D22' ? 'D21' : 'D22' },
      ],
      catalog,
    )
    if (!moved) throw new Error('not moved')
    expect(found('wire-left-over', moved)).toHaveLength(1)
    expect(remediesEnd('wire-left-over', moved)).toHaveLength(1)
    expect(found('wire-left-over', planned)).toEqual([])
  })
})

describe('what the node does by itself', () => {
  const told = (partId: string, kind: string, channel: string): EditBody => ({
    kind: 'add-part',
    partId,
    part: kind,
    label: partId,
    signals: [{ id: `s${partId}`, channel }],
  })
  const condition = (signalId: string, set: Extract<EditBody, { kind: 'condition' }>['set']): EditBody => ({
    kind: 'condition',
    signalId,
    set,
  })
  test('starts-by-itself: a pump that comes back on is one, a guarded one a note, a lamp none', () => {
    const pump = [told('pump', 'relay-module-low', 'switch'), told('flap', 'contact-reed', 'open')]
    expect(found('starts-by-itself', bench(pump))).toEqual([])
    for (const set of [{ atStart: 'on' }, { atStart: 'last' }, { atStart: 'follow', follows: 'sflap' }] as const) {
      const design = bench([...pump, condition('spump', set)])
      expect(found('starts-by-itself', design)).toMatchObject([{ severity: 'fix', signalId: 'spump' }])
      expect(remediesEnd('starts-by-itself', design)).toEqual(['Off at power-up'])
    }
    expect(
      found(
        'starts-by-itself',
        bench([
          ...pump,
          condition('spump', { atStart: 'on' }),
          { kind: 'set-guard', guardId: 'gg', guard: { kind: 'needs', output: 'spump', input: 'sflap', is: true } },
        ]),
      ),
    ).toMatchObject([{ severity: 'note' }])
    expect(
      found('starts-by-itself', bench([told('lamp', 'led-pwm', 'light'), condition('slamp', { atStart: 'on' })])),
    ).toEqual([])
  })
  test('presses-too-close: 150 ms + 2 · 65 ms = 280 ms is the least gap, 350 ms the least long press', () => {
    const key = [told('key', 'button-ground', 'press')]
    for (const [patterns, set, n] of [
      [['single', 'double'], { gapMs: 279 }, 1],
      [['single', 'double'], { gapMs: 280 }, 0],
      [['single'], { gapMs: 100 }, 0],
      [['single', 'long'], { longMs: 349 }, 1],
      [['single', 'long'], { longMs: 350 }, 0],
    ] as const) {
      const design = bench([...key, condition('skey', { patterns: [...patterns], ...set })])
      expect(found('presses-too-close', design), JSON.stringify(set)).toHaveLength(n)
      if (n > 0) remediesEnd('presses-too-close', design)
    }
  })
  test('sleeps-with-outputs: a lamp or a key that cannot wake it, and not a thermometer', () => {
    const sleep: EditBody = { kind: 'sleep', everyS: 600 }
    expect(
      found(
        'sleeps-with-outputs',
        bench([told('warm', 'climate-i2c-fixed', 'temperature'), sleep], { on: 'board-c3-16' }),
      ),
    ).toEqual([])
    const design = bench([told('lamp', 'led-pwm', 'light'), told('key', 'button-ground', 'press'), sleep], {
      on: 'board-c3-16',
    })
    expect(found('sleeps-with-outputs', design)).toMatchObject([
      { severity: 'fix', sentence: expect.stringMatching(/dead while the node sleeps, up to 600 s/) },
    ])
    expect(remediesEnd('sleeps-with-outputs', design)).toEqual(['Do not sleep'])
  })
})

test('every rule has been seen to trigger here, but for those whose tests stand beside these', () => {
  const beside = [
    ...IN_HARM,
    'address-clash',
    'cell-cold',
    'cell-feeds-nothing',
    'cell-left-unused',
    'charge-rate',
    'fed-while-off',
    'codes-too-short',
    'input-over-maximum',
    'ladder-gap',
    'line-without-pin',
    'memory',
    'one-wire-unnamed',
    'look-alike',
    'not-calibrated',
    'outside-pull-missing',
    'place-gone',
    'network-gone',
    'senders-not-carried',
    'cannot-say',
  ]
  expect(
    RULES.map((r) => r.id)
      .filter((id) => !seen.has(id))
      .sort(),
  ).toEqual(beside.sort())
})

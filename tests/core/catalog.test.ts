import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { type BoardPin, pinsOf } from '../../src/core/catalog/board'
import { itemText, readItem } from '../../src/core/catalog/itemFile'
import { linesOf } from '../../src/core/catalog/part'
import { searchParts } from '../../src/core/catalog/searchParts'
import { derive } from '../../src/core/derive/derive'
import { applyEdit } from '../../src/core/edits/apply'
import { designSchema } from '../../src/core/model/design'
import { designText, readDesign } from '../../src/core/model/readDesign'
import { compile } from '../../src/core/nodefile/compile'
import { judgePin } from '../../src/core/pins/judgePin'
import { planLines } from '../../src/core/lines/lines'
import { describe as describeThing } from '../../src/core/publish/describe'
import { unitFactor, unitsFor } from '../../src/core/units/convert'
import { POSITIONS } from '../support/boardFacts'
import { addParts, after, blank, catalog } from '../support/designs'
import { NO_SURROUNDINGS } from '../../src/core/surroundings/surroundings'

/** What the catalogue says of a pin, in the words of the second table. */
function words(pin: BoardPin): string[] {
  const has = (f: string) => (pin.functions as string[]).includes(f)
  const strap =
    pin.strap && pin.strap.level !== 'any'
      ? [`${pin.strap.when === 'every start' ? 'strap' : 'cable'}-${pin.strap.level}`]
      : []
  const start =
    { pulses: ['pulses'], driven: ['driven'], 'driven-high': ['high-at-start'], 'driven-low': ['low-at-start'] }[
      pin.startup as string
    ] ?? []
  return [
    ...['in', 'out', 'pwm', 'i2c', 'adc1', 'adc2', 'dac', 'touch'].filter(has),
    ...(has('open-drain') ? ['od'] : []),
    ...pin.pulls,
    ...(pin.wake ? ['wake'] : []),
    ...strap,
    ...start,
    ...(!pin.interrupt && has('in') ? ['no-irq'] : []),
  ].sort()
}

describe('boards against a second table, position by position', () => {
  for (const [id, positions] of Object.entries(POSITIONS)) {
    const board = catalog.boards[id]
    if (!board) throw new Error(id)
    test(`${id}: ${positions.length} positions`, () => {
      expect(board.positions).toHaveLength(positions.length)
      for (const [side, position, label, chip, does] of positions) {
        const at = board.positions.find((p) => p.side === side && p.position === position)
        expect(at?.label, `${side} ${position}`).toBe(label)
        if (chip === null) expect(at?.kind, label).not.toBe('pin')
        else if (at?.kind !== 'pin') throw new Error(`${label} is no pin`)
        else {
          expect(at.chip, label).toBe(chip)
          expect(words(at), label).toEqual(does.split(' ').filter(Boolean).sort())
        }
      }
    })
  }

  test('peripherals, drive and radios of each chip', () => {
    const facts = Object.fromEntries(
      Object.values(catalog.boards).map((b) => [
        b.id,
        [
          b.peripherals.i2c.count,
          b.peripherals.uart.count,
          b.peripherals.pwm.channels,
          b.peripherals.pwm.timers,
          b.drive.perPinA,
          b.radios.join(' '),
          b.pulls.upOhm,
        ],
      ]),
    )
    expect(facts).toEqual({
      'board-8266-16': [0, 1, 8, 1, 0.012, 'wifi', 45000],
      'board-32-30': [2, 3, 16, 8, 0.02, 'wifi ble', 45000],
      'board-c3-16': [1, 2, 6, 4, 0.02, 'wifi ble', 45000],
      'board-s3-44': [2, 3, 8, 4, 0.02, 'wifi ble', 45000],
      'board-c6-32': [1, 2, 6, 4, 0.02, 'wifi ble 802.15.4', 45000],
      'board-rp2040-40': [2, 2, 16, 8, 0.012, 'wifi ble', 60000],
    })
  })

  test('thresholds: 0.25 and 0.75 of the supply, but 0.8 V and 2.0 V on the RP2040; none stands more than 3.6 V', () => {
    for (const b of Object.values(catalog.boards)) {
      const [low, high] = b.id === 'board-rp2040-40' ? [0.8, 2.0] : [0.825, 2.475]
      expect(b.input.lowRatio * b.logicV).toBeCloseTo(low, 6)
      expect(b.input.highRatio * b.logicV).toBeCloseTo(high, 6)
      expect(b.logicV + b.input.maxAboveSupplyV).toBeCloseTo(3.6, 9)
    }
  })

  test('pins tied to peripherals follow the chip’s rule of four: controller (n / 2) mod 2 for I²C, (n + 4) / 8 mod 2 for serial, n / 8 mod 2 for SPI', () => {
    for (const pin of pinsOf(
      catalog.boards['board-rp2040-40'] ??
        (() => {
          throw new Error()
        })(),
    )) {
      const n = pin.chip
      expect(pin.pwm).toEqual({ slice: Math.floor((n % 16) / 2), channel: n % 2 === 0 ? 'a' : 'b' })
      for (const m of pin.mux) {
        if (m.bus === 'i2c')
          expect([m.controller, m.role], `I²C on ${n}`).toEqual([Math.floor(n / 2) % 2, n % 2 === 0 ? 'sda' : 'scl'])
        if (m.bus === 'uart')
          expect([m.controller, m.role], `serial on ${n}`).toEqual([
            Math.floor((n + 4) / 8) % 2,
            n % 2 === 0 ? 'tx' : 'rx',
          ])
        if (m.bus === 'spi')
          expect([m.controller, m.role], `SPI on ${n}`).toEqual([
            Math.floor(n / 8) % 2,
            ['miso', 'cs', 'sck', 'mosi'][n % 4],
          ])
      }
    }
  })
})

/** Board, part, its line, pin, and what must come of it: worked out by hand from the data sheets. `''` fits. */
const CASES: [string, string, string, string, RegExp | ''][] = [
  // Reset levels against a closed contact: 1 Ω to ground against any strap that must be high.
  ['board-8266-16', 'button-ground', 'a', 'D3', /must be high at reset/],
  ['board-8266-16', 'button-ground', 'a', 'D4', /must be high at reset/],
  ['board-8266-16', 'button-ground', 'a', 'D8', /never reads high/],
  ['board-8266-16', 'button-ground', 'a', 'TX', /two outputs would meet/],
  ['board-8266-16', 'button-ground', 'a', 'D0', /two outputs would meet/],
  ['board-8266-16', 'button-ground', 'a', 'D1', ''],
  ['board-8266-16', 'button-ground', 'a', 'A0', /cannot read a level/],
  ['board-c3-16', 'button-ground', 'a', '9', /must be high at reset/],
  ['board-c3-16', 'button-ground', 'a', '2', /must be high at reset/],
  ['board-c3-16', 'button-ground', 'a', '8', ''],
  ['board-s3-44', 'button-ground', 'a', '0', /must be high at reset/],
  ['board-s3-44', 'button-ground', 'a', '45', ''],
  ['board-c6-32', 'button-ground', 'a', '9', /must be high at reset/],
  ['board-c6-32', 'button-ground', 'a', '15', ''],
  ['board-32-30', 'button-ground', 'a', 'D12', ''],
  ['board-32-30', 'button-ground', 'a', 'D2', ''],
  // A pull-up of the part against a strap that must be low: 3.3 · 45/(45 + 4.7) = 2.99 V, 3.3 · 45/(45 + 10) = 2.70 V,
  // 3.3 · 10/(10 + 4.7) = 2.24 V.
  ['board-32-30', 'thermometer-one-wire', 'data', 'D12', /2\.99 V/],
  ['board-32-30', 'climate-i2c-two', 'sda', 'D12', /2\.70 V/],
  ['board-8266-16', 'light-i2c', 'sda', 'D8', /2\.24 V/],
  ['board-8266-16', 'climate-i2c-two', 'scl', 'D8', /1\.65 V/],
  ['board-s3-44', 'thermometer-one-wire', 'data', '45', /2\.99 V/],
  // An idle-high bus agrees with straps that must be high.
  ['board-c3-16', 'climate-i2c-two', 'sda', '8', ''],
  ['board-c3-16', 'climate-i2c-two', 'scl', '9', ''],
  ['board-8266-16', 'light-i2c', 'sda', 'D3', ''],
  // A module's own resistor: 1 kΩ up on a strap that must be low.
  ['board-32-30', 'relay-module-low', 'in', 'D12', /3\.23 V/],
  // What heats, moves or pumps: no pulses, nothing active, nothing that floats unheld.
  ['board-32-30', 'relay-module-low', 'in', 'D5', /pulses while the chip starts/],
  ['board-32-30', 'relay-module-low', 'in', 'D15', /pulses while the chip starts/],
  ['board-32-30', 'relay-module-high', 'in', 'TX0', /pulses while the chip starts/],
  ['board-32-30', 'relay-module-high', 'in', 'D13', ''],
  ['board-8266-16', 'relay-module-high', 'in', 'D0', /is high while the chip starts/],
  ['board-8266-16', 'relay-module-low', 'in', 'D0', ''],
  // 10 kΩ down against a 45 kΩ pull-up: 3.3 · 10/55 = 0.60 V, below 0.825 V.
  ['board-8266-16', 'relay-module-high', 'in', 'D5', ''],
  // 100 kΩ down against the same: 3.3 · 100/145 = 2.28 V: the motor would start. The driver's own 10 kΩ is what holds
  // it.
  ['board-8266-16', 'servo', 's', 'D5', /2\.28 V/],
  ['board-8266-16', 'motor-driver', 'in1', 'D5', /2\.28 V|1\.02 V/],
  ['board-8266-16', 'motor-driver', 'in1', 'D1', ''],
  ['board-32-30', 'relay-bare', 'in', 'D26', /nothing else does: a resistor to the safe side would/],
  ['board-rp2040-40', 'relay-bare', 'in', 'GP2', ''],
  ['board-c3-16', 'fet-stage', 'g', '9', /must be high at reset/],
  ['board-s3-44', 'fet-stage', 'g', '19', /pulses while the chip starts/],
  ['board-c6-32', 'fet-stage', 'g', 'TX', /pulses while the chip starts/],
  // Analog inputs and the radio.
  ['board-32-30', 'thermistor', 'a', 'D34', ''],
  ['board-32-30', 'thermistor', 'a', 'D26', /cannot measure while Wi-Fi is on/],
  ['board-32-30', 'thermistor', 'a', 'D19', /cannot measure a voltage/],
  ['board-8266-16', 'soil-analog', 'out', 'A0', ''],
  ['board-8266-16', 'soil-analog', 'out', 'D1', /cannot measure a voltage/],
  ['board-c3-16', 'soil-analog', 'out', '4', ''],
  ['board-c3-16', 'soil-analog', 'out', '5', /cannot measure a voltage/],
  ['board-s3-44', 'microphone-analog', 'out', '10', ''],
  ['board-s3-44', 'microphone-analog', 'out', '11', /cannot measure while Wi-Fi is on/],
  ['board-rp2040-40', 'light-resistor', 'a', 'GP28', ''],
  ['board-rp2040-40', 'light-resistor', 'a', 'GP22', /cannot measure a voltage/],
  // Pulses, interrupts, open drain.
  ['board-32-30', 'led-pwm', 'a', 'D35', /only reads/],
  ['board-8266-16', 'led-pwm', 'a', 'D0', /no pulse-width output/],
  ['board-8266-16', 'flow-meter', 'pulse', 'D0', /no interrupt|two outputs would meet/],
  ['board-32-30', 'flow-meter', 'pulse', 'VP', /no interrupt/],
  ['board-32-30', 'flow-meter', 'pulse', 'D35', ''],
  ['board-8266-16', 'thermometer-one-wire', 'data', 'D0', /no open-drain output/],
  // Buses that silicon ties.
  ['board-rp2040-40', 'light-i2c', 'sda', 'GP4', ''],
  ['board-rp2040-40', 'light-i2c', 'sda', 'GP5', /not a SDA of any/],
  ['board-rp2040-40', 'light-i2c', 'scl', 'GP5', ''],
  ['board-rp2040-40', 'light-i2c', 'scl', 'GP22', /not a SCL of any/],
  ['board-rp2040-40', 'thermocouple-spi', 'sck', 'GP2', ''],
  ['board-rp2040-40', 'thermocouple-spi', 'sck', 'GP3', /not a SCK of any/],
  ['board-rp2040-40', 'thermocouple-spi', 'cs', 'GP3', ''],
  ['board-rp2040-40', 'presence-radar', 'rx', 'GP0', ''],
  ['board-rp2040-40', 'presence-radar', 'tx', 'GP0', /not a RX of any/],
  ['board-8266-16', 'thermocouple-spi', 'sck', 'D5', ''],
  ['board-8266-16', 'thermocouple-spi', 'so', 'D6', ''],
  ['board-8266-16', 'thermocouple-spi', 'sck', 'D1', /not a SCK of any/],
  ['board-8266-16', 'light-i2c', 'sda', 'D0', /no open-drain|cannot carry a bus/],
]

test.each(CASES)('%s: %s %s on %s', (boardId, part, terminal, label, expected) => {
  const board = catalog.boards[boardId]
  const design = after(blank(boardId), { kind: 'add-part', partId: 'thing', part, label: 'Thing', signals: [] })
  const line = planLines(design, catalog).find((l) => l.terminal.id === terminal)
  const pin = board && pinsOf(board).find((p) => p.label === label)
  if (!board || !line || !pin) throw new Error('no such case')
  const verdict = judgePin(board, pin, line)
  if (expected === '') expect(verdict).toMatchObject({ fits: true })
  else expect(verdict).toMatchObject({ fits: false, reason: expect.stringMatching(expected) })
})

test('an added resistor to the safe side frees pins for a bare relay, if it is strong enough', () => {
  const bare = after(blank('board-32-30'), {
    kind: 'add-part',
    partId: 'relay',
    part: 'relay-bare',
    label: 'Relay',
    signals: [],
  })
  expect(bare.plan.pins).toEqual({ 'relay.in': expect.stringMatching(/D13|D4|D12|D2/) })
  const fits = (ohm: number) => {
    const held = after(bare, {
      kind: 'add-component',
      componentId: 'hold',
      component: { type: 'pull', line: 'relay.in', names: ['R1'], level: 'low', ohm, tolerance: 0.05 },
    })
    const lock = applyEdit(held, { kind: 'lock', line: 'relay.in', pin: 'D26' }, catalog)
    return lock.ok
  }
  expect(fits(10_000)).toBe(true)
  expect(applyEdit(bare, { kind: 'lock', line: 'relay.in', pin: 'D26' }, catalog).ok).toBe(false)
  // On a pin with a pull-up 15 kΩ leaves 3.3 · 15/60 = 0.825 V, just low; 16 kΩ does not.
  const small = (ohm: number) => {
    const design = after(blank('board-8266-16'), {
      kind: 'add-part',
      partId: 'relay',
      part: 'relay-bare',
      label: 'Relay',
      signals: [],
    })
    return applyEdit(
      after(design, {
        kind: 'add-component',
        componentId: 'hold',
        component: { type: 'pull', line: 'relay.in', names: ['R1'], level: 'low', ohm, tolerance: 0.05 },
      }),
      { kind: 'lock', line: 'relay.in', pin: 'D6' },
      catalog,
    ).ok
  }
  expect([small(10_000), small(15_000), small(16_000)]).toEqual([true, true, false])
})

/**
 * Every part kind a second time: what feeds it, V; its lines; what it knows or does. From the data sheets, apart from
 * the catalogue.
 */
const PARTS: [string, string, string, string][] = [
  ['button-ground', '', 'a', 'press'],
  ['toggle-ground', '', 'a', 'on'],
  ['toggle-lamp', '', 'a lamp', 'on lamp'],
  ['rocker-lit', '3…12.6', 'a', 'on'],
  ['encoder-push', '', 'ca cb push', 'turn press'],
  ['contact-reed', '', 'a', 'open'],
  ['contact-dry', '', 'a', 'closed'],
  ['loop-12v', '', 'z', 'open'],
  ['loop-end-resistor', '', 'z', 'loop'],
  ['motion-12v', '9…16', 'nc', 'motion'],
  ['pressure-mat', '', 'a', 'loaded'],
  ['motion-module', '4.5…20', 'out', 'motion'],
  ['presence-radar', '4.75…5.25', 'tx rx', 'presence distance'],
  ['ranger-echo', '4.5…5.5', 'trig echo', 'distance'],
  ['ranger-serial', '3.1…5.5', 'tx rx', 'distance'],
  ['level-analog', '4.75…5.25', 'out', 'level'],
  ['soil-analog', '3.1…5.5', 'out', 'moisture'],
  ['climate-i2c-fixed', '3…3.6', 'sda scl', 'temperature humidity'],
  ['climate-i2c-two', '3…3.6', 'sda scl', 'temperature humidity pressure'],
  ['pressure-i2c', '3…3.6', 'sda scl', 'pressure'],
  ['light-i2c', '3…3.6', 'sda scl', 'light'],
  ['thermometer-one-wire', '3…5.5', 'data', 'temperature'],
  ['thermistor', '', 'a', 'temperature'],
  ['light-resistor', '', 'a', 'brightness'],
  ['thermocouple-spi', '3…5.5', 'sck cs so', 'temperature'],
  ['air-quality-serial', '4.7…5.3', 'tx rx', 'fine'],
  ['microphone-analog', '2.4…3.6', 'out', 'loudness level'],
  ['current-transformer', '', 'out', 'current'],
  ['flow-meter', '4.5…18', 'pulse', 'flow total'],
  ['pulse-meter', '', 'pulse', 'rate total'],
  ['relay-module-low', '4.5…5.5 3…5.5', 'in', 'switch'],
  ['relay-module-high', '4.5…5.5', 'in', 'switch'],
  ['relay-module-5v-low', '4.75…5.25', 'in', 'switch'],
  ['relay-bare', '4.5…5.5', 'in', 'switch'],
  ['fet-stage', '', 'g', 'power'],
  ['optocoupler-input', '', 'out', 'on'],
  ['led-pwm', '', 'a', 'light'],
  ['strip-two-white', '11…13', 'w c', 'warm cold'],
  ['led-string', '4.5…5.3', 'din', 'colour'],
  ['sounder', '', 'a', 'tone'],
  ['servo', '4.75…6', 's', 'angle'],
  ['motor-driver', '4.5…10.8', 'in1 in2', 'drive'],
  ['receiver-subghz', '3…5.5', 'data', 'heard'],
  ['transmitter-subghz', '3…12', 'data', 'send'],
  ['display-i2c', '3…5.5', 'sda scl', 'text'],
]

test.each(PARTS)('%s: supplies, lines and channels', (id, supplies, lines, channels) => {
  const kind = catalog.parts[id]
  if (!kind) throw new Error(id)
  expect(kind.terminals.flatMap((t) => (t.role === 'supply' ? [`${t.minV}…${t.maxV}`] : [])).join(' ')).toBe(supplies)
  expect(
    linesOf(kind)
      .map((l) => l.id)
      .join(' '),
  ).toBe(lines)
  expect(kind.channels.map((c) => c.id).join(' ')).toBe(channels)
  expect(kind.finds.length).toBeGreaterThan(1)
  expect(kind.source.length).toBeGreaterThan(10)
})

test('addresses of parts on the two-wire bus', () => {
  const addresses = Object.fromEntries(
    Object.values(catalog.parts).flatMap((k) =>
      k.i2c ? [[k.id, k.i2c.addresses.map((a) => a.toString(16)).join(' ')]] : [],
    ),
  )
  expect(addresses).toEqual({
    'climate-i2c-fixed': '44',
    'climate-i2c-two': '76 77',
    'pressure-i2c': '77 76',
    'light-i2c': '23 5c',
    'display-i2c': '3c 3d',
    'expander-16': '20 21 22 23 24 25 26 27',
    'adc-i2c-4': '48 49 4a 4b',
    'mux-i2c-8': '70 71 72 73 74 75 76 77',
  })
})

test('any parts on any board make a design that can be derived, described, written and read back', () => {
  const boards = fc.constantFrom(...Object.keys(catalog.boards))
  const kinds = fc.array(fc.constantFrom(...Object.keys(catalog.parts)), { minLength: 1, maxLength: 7 })
  fc.assert(
    fc.property(boards, kinds, (board, parts) => {
      const bare = after(blank(board), ...addParts(parts))
      const design = Object.entries(bare.parts).reduce(
        (d, [id, part]) =>
          (catalog.parts[part.kind]?.channels ?? [])
            .slice(0, 3)
            .reduce(
              (e, c, n) => after(e, { kind: 'add-signal', partId: id, signal: { id: `s${id}${n}`, channel: c.id } }),
              d,
            ),
        bare,
      )
      designSchema.parse(design)
      const { rows, findings, wiring } = derive(design, catalog)
      expect(rows).toHaveLength(Object.keys(design.signals).length)
      expect(new Set(wiring.wires.map((w) => w.key)).size).toBe(wiring.wires.length)
      for (const w of wiring.wires) expect(design.wires[w.key]?.number).toBeGreaterThan(0)
      for (const f of findings) expect(f.sentence).toMatch(/\.$/)
      const result = compile(design, NO_SURROUNDINGS, catalog, { host: '127.0.0.1', port: 1883, root: 'vn' }, 1)
      if (!result.ok) for (const reason of result.reasons) expect(reason.length).toBeGreaterThan(8)
      const read = readDesign(designText(design), catalog)
      expect(read.ok && designText(read.value)).toBe(designText(design))
    }),
    { numRuns: 80 },
  )
})

test('units: what cannot be converted is shown in its own, and factors go there and back', () => {
  expect(unitFactor('Pa', 'hPa')).toBe(0.01)
  expect(unitFactor('%', '%')).toBe(1)
  expect(unitsFor('lx')).toEqual(['lx'])
  expect(() => unitFactor('m', '°C')).toThrow(/possible: m, cm, mm/)
})

/** What people call it, and a kind that must then be among the first four. */
const WISHES: [string, string][] = [
  ['level', 'ranger-echo'],
  ['tank', 'ranger-echo'],
  ['press', 'button-ground'],
  ['bell', 'button-ground'],
  ['foot switch', 'button-ground'],
  ['wall switch', 'toggle-ground'],
  ['illuminated switch', 'rocker-lit'],
  ['knob', 'encoder-push'],
  ['keypad', 'keys-matrix-3x4'],
  ['door', 'contact-reed'],
  ['window open', 'contact-reed'],
  ['air flow', 'contact-dry'],
  ['float switch', 'contact-dry'],
  ['old sensor', 'loop-12v'],
  ['tamper', 'loop-end-resistor'],
  ['motion', 'motion-module'],
  ['somebody in bed', 'nothing'],
  ['mat', 'pressure-mat'],
  ['sits still', 'presence-radar'],
  ['well depth', 'level-analog'],
  ['soil', 'soil-analog'],
  ['temperature', 'thermometer-one-wire'],
  ['humidity', 'climate-i2c-two'],
  ['barometer', 'pressure-i2c'],
  ['lux', 'light-i2c'],
  ['kiln', 'thermocouple-spi'],
  ['dust', 'air-quality-serial'],
  ['noise', 'microphone-analog'],
  ['current', 'current-transformer'],
  ['litres', 'flow-meter'],
  ['gas meter', 'pulse-meter'],
  ['pump', 'relay-module-low'],
  ['dim', 'fet-stage'],
  ['24 v', 'optocoupler-input'],
  ['warm white', 'strip-two-white'],
  ['colour', 'led-string'],
  ['beep', 'sounder'],
  ['damper', 'servo'],
  ['blind', 'motor-driver'],
  ['433', 'receiver-subghz'],
  ['screen', 'display-i2c'],
  ['display', 'display-i2c'],
  ['more pins', 'expander-16'],
  ['same address', 'mux-i2c-8'],
  ['translate', 'shifter-4'],
  ['18650', 'cell-18650'],
  ['coin', 'cell-coin-2032'],
  ['mains supply', 'supply-5v'],
  ['extractor', 'contactor-mains'],
]
test.each(WISHES)('“%s” finds %s', (wish, id) => {
  const found = searchParts(catalog, wish).map((k) => k.id)
  if (id === 'nothing') expect(found).toEqual([])
  else expect(found.slice(0, 4)).toContain(id)
})

/** A board or part file put out of shape in one place: what is found there, and what is expected. */
const SPOILT: [string, string, string, RegExp][] = [
  [
    'board-c3-16',
    '"format": "vivid-node/board"',
    '"format": "vivid-node/bord"',
    /one of vivid-node\/board, vivid-node\/part/,
  ],
  ['board-c3-16', '"usb": "native"', '"usb": "nativ"', /one of none, serial bridge, native/],
  ['board-c3-16', '"logicV": 3.3', '"logicV": "3.3"', /a number/],
  ['board-c3-16', '"side": "left"', '"side": "top"', /one of left, right/],
  ['board-c3-16', '"chip": 5,', '"chip": 500,', /at most 255/],
  ['board-c3-16', '"chip": 5,', '"chip": 5.5,', /int/],
  ['board-c3-16', '"startup": "floats"', '"startup": "float"', /one of floats, pulled-up/],
  ['board-c3-16', '"interrupt": true', '"interupt": true', /a name this format knows|boolean/],
  ['board-c3-16', '"label": "5V"', '"label": ""', /at least 1/],
  ['board-c3-16', '"version": 2', '"version": 0', /at least 1/],
  ['board-c3-16', '"label": "6"', '"label": "5"', /two pins are labelled 5/],
  ['light-i2c', '"group": "climate and air"', '"group": "climate"', /one of presses and switches/],
  ['light-i2c', '"cost"', '"price"', /a name this format knows|an object/],
  ['light-i2c', '"each": 1.3', '"each": -1', /at least 0/],
  ['light-i2c', '"board": "both"', '"board": "writes"', /one of drives, reads, both/],
  ['light-i2c', '"to": "vcc"', '"to": "VCC!"', /pattern|match/i],
  ['light-i2c', '"letter": "X"', '"letter": "x"', /pattern|match/i],
  ['light-i2c', '"access": "reading"', '"access": "read"', /reading/],
  ['light-i2c', '"driver": "i2c"', '"driver": "i3c"', /one of ranger, onewire/],
  ['ranger-echo', '"from": "vcc"', '"from": "vdd"', /one of the part’s supply terminals/],
  ['ranger-echo', '"id": "echo"', '"id": "trig"', /a terminal id of its own/],
  ['relay-module-high', '"hazard": true', '"hazard": "yes"', /a boolean/],
]
test.each(SPOILT)('%s with %s as %s is refused at its place', (id, good, bad, expected) => {
  const item = catalog.boards[id] ?? catalog.parts[id]
  if (!item) throw new Error(id)
  const text = itemText(item)
  expect(text).toContain(good)
  const read = readItem(text.replace(good, bad))
  if (read.ok) throw new Error('was accepted')
  expect(read.problems.map((p) => p.expected).join('\n')).toMatch(expected)
  // The line is the one that was spoilt, or one inside the thing that is now wrong.
  const line = text.slice(0, text.indexOf(good)).split('\n').length
  expect(Math.min(...read.problems.map((p) => Math.abs(p.line - line)))).toBeLessThan(60)
  expect(readItem(text).ok).toBe(true)
})

describe('what a signal of each kind of channel becomes', () => {
  const withSignal = (board: string, part: string, channel: string) =>
    after(blank(board), {
      kind: 'add-part',
      partId: 'thing',
      part,
      label: 'Thing',
      signals: [{ id: 'sthing', channel, name: 'thing' }],
    })
  const described = (part: string, channel: string) =>
    (
      describeThing(withSignal('board-32-30', part, channel), NO_SURROUNDINGS, catalog, {
        host: '127.0.0.1',
        port: 1883,
        root: 'vn',
      }).properties as Record<string, Record<string, unknown>>
    ).thing
  test('a contact says open or closed, is only read, and may be unknown', () => {
    expect(described('contact-reed', 'open')).toMatchObject({
      readOnly: true,
      'vn:words': { true: 'open', false: 'closed' },
      oneOf: [{ type: 'boolean' }, { type: 'null' }],
    })
  })
  test('a dimmer takes 0 to 100 %, a display a text, a lamp string a colour, a relay yes or no', () => {
    expect(described('fet-stage', 'power')).toMatchObject({
      readOnly: false,
      type: 'number',
      minimum: 0,
      maximum: 100,
      unit: '%',
    })
    expect(described('display-i2c', 'text')).toMatchObject({ type: 'string', maxLength: 200 })
    expect(described('led-string', 'colour')).toMatchObject({ type: 'string', pattern: '^#[0-9a-fA-F]{6}$' })
    expect(described('relay-module-high', 'switch')).toMatchObject({ type: 'boolean' })
  })
  test('pressure is read in pascal and shown in hectopascal', () => {
    const design = withSignal('board-32-30', 'pressure-i2c', 'pressure')
    expect(design.signals.sthing?.publish).toMatchObject({ unit: 'hPa', decimals: 1 })
    expect(applyEdit(design, { kind: 'publish', signalId: 'sthing', set: { unit: 'kPa' } }, catalog).ok).toBe(true)
    expect(applyEdit(design, { kind: 'publish', signalId: 'sthing', set: { unit: 'mm' } }, catalog)).toMatchObject({
      ok: false,
      accepts: 'Pa, hPa, kPa',
    })
  })
  test('a transmitter that has nothing to say yet is told what it lacks, and nothing else stands in the way', () => {
    const result = compile(
      withSignal('board-32-30', 'transmitter-subghz', 'send'),
      NO_SURROUNDINGS,
      catalog,
      { host: '127.0.0.1', port: 1883, root: 'vn' },
      1,
    )
    expect(result.ok ? [] : result.reasons).toEqual([
      expect.stringMatching(/nobody has said yet what it says on the air/),
    ])
  })
  test('the loom names a key of a matrix by its row and column', () => {
    const row = derive(withSignal('board-rp2040-40', 'keys-matrix-3x4', 'k1'), catalog).rows[0]
    expect(row?.cells.terminals.fact).toBe('R1·C1')
    expect(row?.cells.pins.fact.split('·')).toHaveLength(2)
    expect(row?.woven).toBe(true)
  })
})

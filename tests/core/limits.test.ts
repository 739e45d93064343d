import { describe, expect, test } from 'vitest'
import { CALCULATIONS, offersOf } from '../../src/core/calculations/calculations'
import { chooseFuse } from '../../src/core/calculations/fuseCalculation'
import { type Board, pinByLabel } from '../../src/core/catalog/board'
import type { PartKind } from '../../src/core/catalog/part'
import { applyEdit, editWords } from '../../src/core/edits/apply'
import { jointsOf } from '../../src/core/edits/joints'
import { withWiresOf } from '../../src/core/edits/normalize'
import { sameOnOthers } from '../../src/core/edits/sameOnOthers'
import { wishedEdits } from '../../src/core/edits/wished'
import type { EditBody } from '../../src/core/edits/edit'
import type { Design } from '../../src/core/model/design'
import { compile } from '../../src/core/nodefile/compile'
import { importNodeFile } from '../../src/core/nodefile/importNodeFile'
import type { NodeFile } from '../../src/core/nodefile/nodeFile'
import { fileWords, semanticDiff } from '../../src/core/nodefile/semanticDiff'
import { NO_SURROUNDINGS } from '../../src/core/surroundings/surroundings'
import { loadTerminals, wiringOf } from '../../src/core/wiring/netlist'
import { endWords } from '../../src/core/wiring/schedule'
import { after, blank, catalog, slipTank } from '../support/designs'
import { feed, part, set } from '../support/editBodies'

const BROKER = { host: 'h', port: 1883, root: 'vn' }
const fileOf = (d: Design): NodeFile => {
  const c = compile(d, NO_SURROUNDINGS, catalog, BROKER, 1)
  if (!c.ok) throw new Error(c.reasons.join())
  return c.compiled.file
}
const refused = (d: Design, edit: EditBody): string => {
  const applied = applyEdit(d, edit, catalog)
  return applied.ok ? '' : applied.reason
}

describe('a calculation holds at its very limit, and not beyond it', () => {
  const ok = (id: keyof typeof CALCULATIONS, given: Record<string, number>) => CALCULATIONS[id].solve(given).ok
  test('fuse: exactly 1.25 times the load, exactly what the wire carries', () => {
    expect(ok('fuse', { loadA: 2, gaugeMm2: 0.5, value: 2.5 })).toBe(true)
    expect(ok('fuse', { loadA: 2.01, gaugeMm2: 0.5, value: 2.5 })).toBe(false)
    expect(ok('fuse', { loadA: 2, gaugeMm2: 0.5, value: 3 })).toBe(true)
    expect(ok('fuse', { loadA: 2, gaugeMm2: 0.5, value: 3.15 })).toBe(false)
    expect(CALCULATIONS.fuse.solve({ loadA: 2, gaugeMm2: 0.5, value: 2 }).words).toMatch(/^Would blow/)
    expect(CALCULATIONS.fuse.solve({ loadA: 1, gaugeMm2: 0.5, value: 4 }).words).toMatch(/burn/)
    expect(CALCULATIONS.fuse.solve({ loadA: 2, gaugeMm2: 0.3, value: 2.5 }).words).toMatch(/^The wire would burn/)
  })
  test('wire: what is left is exactly what is needed, the load exactly what it carries', () => {
    // 2 · 10 m · 0.0175 Ω·mm²/m, warm by 20 K at 0.39 %/K, · 1 A / 0.5 mm² = 0.755 V
    const drop = (2 * 10 * 0.0175 * (1 + 0.0039 * 20) * 1) / 0.5
    const wire = { supplyV: 12, lengthM: 10, loadA: 1, value: 0.5 }
    expect(ok('wire', { ...wire, needsV: 12 - drop })).toBe(true)
    expect(ok('wire', { ...wire, needsV: 12 - drop + 0.001 })).toBe(false)
    expect(ok('wire', { supplyV: 12, needsV: 0, lengthM: 0.1, loadA: 3, value: 0.5 })).toBe(true)
    expect(ok('wire', { supplyV: 12, needsV: 0, lengthM: 0.1, loadA: 3.01, value: 0.5 })).toBe(false)
    expect(CALCULATIONS.wire.solve({ ...wire, needsV: 11.9 }).words).toMatch(/needs/)
    expect(CALCULATIONS.wire.solve({ supplyV: 12, needsV: 0, lengthM: 0.1, loadA: 9, value: 0.5 }).words).toMatch(
      /carry/,
    )
    expect(CALCULATIONS.wire.solve({ ...wire, needsV: 12 }).ideal).toBeNull()
    // A twentieth of 12 V may be lost: 0.6 V. Where less is to spare, that: 0.2 V. Where the way is short: 6 A/mm².
    const perMm2 = 2 * 10 * 0.0175 * 1.078
    expect(CALCULATIONS.wire.solve({ ...wire, needsV: 5 }).ideal).toBeCloseTo(perMm2 / 0.6, 2)
    expect(CALCULATIONS.wire.solve({ ...wire, needsV: 11.8 }).ideal).toBeCloseTo(perMm2 / 0.2, 2)
    expect(CALCULATIONS.wire.solve({ ...wire, lengthM: 0.1, loadA: 3, needsV: 5 }).ideal).toBeCloseTo(0.5, 6)
  })
  test('fuse: the smallest that is made, and none where the wire is too thin', () => {
    expect([
      chooseFuse(2, 0.5),
      chooseFuse(2.01, 0.525),
      chooseFuse(2.52, 0.525),
      chooseFuse(2.52, 0.52),
      chooseFuse(0.4, 0.5),
    ]).toEqual([2.5, 3.15, 3.15, null, 0.5])
  })
  test('divider: half way between what the pin stands and where it reads high', () => {
    // 3 V of 12 V is a quarter, 2.2 V of 11 V a fifth; between them 0.225: 10 kΩ · 0.225 / 0.775 below.
    const given = { maxV: 12, limitV: 3, minV: 11, readsHighV: 2.2, topOhm: 10_000, value: 2900 }
    expect(CALCULATIONS.divider.solve(given).ideal).toBeCloseTo(2903.2, 1)
    expect(CALCULATIONS.divider.solve({ ...given, maxV: 3, minV: 2.2 }).ideal).toBeNull()
  })
  test('pull: reads high exactly at its level, and nine tenths of the wetting current are enough', () => {
    // 3.5 V − 0.1 mA · 10 kΩ = 2.5 V
    expect(ok('pull', { supplyV: 3.5, highV: 2.5, leakA: 0.0001, wettingA: 1e-6, value: 10_000 })).toBe(true)
    expect(ok('pull', { supplyV: 3.5, highV: 2.51, leakA: 0.0001, wettingA: 1e-6, value: 10_000 })).toBe(false)
    expect(ok('pull', { supplyV: 3, highV: 1, leakA: 0, wettingA: 0.003, value: 1100 })).toBe(true)
    expect(ok('pull', { supplyV: 3, highV: 1, leakA: 0, wettingA: 0.003, value: 1120 })).toBe(false)
  })
  test('bus: too strong and too weak are told apart', () => {
    const bus = (value: number) =>
      CALCULATIONS['bus-pull'].solve({ supplyV: 3.3, capacitanceF: 1e-10, riseS: 1e-6, modulesOhm: 1e9, value })
    expect(bus(300).words).toMatch(/strong/)
    expect(bus(4700).ok).toBe(true)
    expect(bus(200_000).words).toMatch(/weak/)
  })
})

test('what a file does, in words: the node first, then signal by signal', () => {
  const words = fileWords(fileOf(slipTank()), (id) => `board ${id}`)
  expect(words.map((w) => `${w.of ?? ''}: ${w.words}`)).toEqual([
    ': on the board board-32-30, to h:1883 through house',
    ': never sleeps',
    'level: ranger on pins 27, 34',
    'level: valid from 0.02, valid to 4, median 5, mounting height 900 mm, at least every 1 s, at a change of 0.002, published times 1000, air 20 °C',
    'pump: relay on pin 13',
    'pump: at least every 60 s, on at a low pin, longest on 90 s',
    'press: button on pin 23',
    'press: on at a low pin, pull in the chip up, debounce 24 ms',
    'water: onewire on pin 19',
    'water: valid from -55, valid to 125, average 20 s, at least every 10 s, at a change of 0.1, decimals 1',
  ])
  const more = after(
    slipTank(),
    { kind: 'sleep', everyS: 600 },
    {
      kind: 'set-rule',
      ruleId: 'rr',
      rule: { from: 'spress', when: 'single', forS: 0, to: 'spump', do: true, works: 'always' },
    },
  )
  expect(
    fileWords(fileOf(more))
      .slice(1, 3)
      .map((w) => w.words),
  ).toEqual(['wakes every 600 s and listens 2 s', 'by itself: press single → pump on'])
})

test('signals in another order are a difference; none is none', () => {
  const file = fileOf(slipTank())
  expect(semanticDiff(file, file)).toEqual([])
  expect(semanticDiff(file, { ...file, signals: [...file.signals].reverse() })).toEqual([
    { of: null, words: 'signals in another order' },
  ])
})

test('filter, lamp: exactly half and twice the time wanted, exactly the current allowed, and never without voltage', () => {
  const t = 1.386 * 1000 * 1e-6
  const filter = (wantsS: number) => CALCULATIONS.filter.solve({ ohm: 1000, wantsS, value: 1e-6 }).ok
  expect([filter(2 * t), filter(t / 2), filter(2.01 * t), filter(t / 2.01)]).toEqual([true, true, false, false])
  const lamp = { supplyV: 5, forwardV: 3, limitA: 0.02, value: 100 }
  expect(CALCULATIONS.series.solve(lamp).ok).toBe(true)
  expect(CALCULATIONS.series.solve({ ...lamp, value: 99 }).ok).toBe(false)
  expect(CALCULATIONS.series.solve({ ...lamp, supplyV: 3 })).toMatchObject({ ok: false, words: /reach/ })
})

test('words of edits say what was done, and to what', () => {
  const tank = slipTank()
  const words = (edit: EditBody) => editWords(edit, tank)
  const needs = (is: boolean): EditBody => ({
    kind: 'set-guard',
    guardId: 'gg',
    guard: { kind: 'needs', output: 'spump', input: 'spress', is },
  })
  const [pump, press] = [tank.signals.spump?.tag ?? '', tank.signals.spress?.tag ?? '']
  expect(words(needs(true))).toBe(`${pump} only while ${press} is on`)
  expect(words(needs(false))).toBe(`${pump} only while ${press} is off`)
  expect(words({ kind: 'set-guard', guardId: 'gg', guard: { kind: 'exclusive', of: ['spump', 'spress'] } })).toBe(
    `never together: ${pump}, ${press}`,
  )
  expect(words({ kind: 'set-guard', guardId: 'gg', guard: null })).toBe('drop a guard')
  const label = tank.parts.pump?.label ?? ''
  expect(words(feed('pump', 'com', null))).toBe(`take com of ${label} off`)
  expect(words(feed('pump', 'com', '5V'))).toMatch(new RegExp(`^join com of ${label} to `))
})

test('a guard goes with what it speaks of, and one of three goes from three', () => {
  const d = after(
    blank(),
    ...['ra', 'rb', 'rc'].map((id) => part(id, 'relay-module-high', 'switch')),
    part('da', 'contact-reed', 'open'),
    { kind: 'set-guard', guardId: 'ge', guard: { kind: 'exclusive', of: ['sra', 'srb', 'src'] } },
    { kind: 'set-guard', guardId: 'gn', guard: { kind: 'needs', output: 'sra', input: 'sda', is: true } },
  )
  const left = (...gone: string[]) =>
    after(d, ...gone.map((partId): EditBody => ({ kind: 'remove-part', partId }))).guards
  expect(left('rb')).toMatchObject({ ge: { of: ['sra', 'src'] }, gn: { output: 'sra' } })
  expect(left('rb', 'rc')).toEqual({ gn: d.guards.gn })
  expect(left('ra')).toMatchObject({ ge: { of: ['srb', 'src'] } })
  expect(Object.keys(left('ra'))).toEqual(['ge'])
  expect(Object.keys(left('da'))).toEqual(['ge'])
})

test('what is missing already does not stand in the way of other work; a design with a gone part keeps its wires', () => {
  const tank = slipTank()
  const button = tank.parts.button
  if (!button) throw new Error('no button')
  const broken: Design = { ...tank, parts: { ...tank.parts, button: { ...button, kind: 'no-such-part' } } }
  expect(refused(broken, { kind: 'rename-part', partId: 'pump', label: 'Other pump' })).toBe('')
  expect(withWiresOf(broken, catalog)).toBe(broken)
  const fresh: Design = { ...tank, wires: {} }
  expect(Object.keys(withWiresOf(fresh, catalog).wires).length).toBeGreaterThan(5)
  const boardless: Design = { ...fresh, board: { id: 'no-such-board', version: 1 } }
  expect(withWiresOf(boardless, catalog)).toBe(boardless)
})

test('two chips on one bus get an address each, the third the first again; one with a single address asks nothing', () => {
  const d = after(
    blank(),
    ...['ca', 'cb', 'cc'].map((id) => part(id, 'climate-i2c-two', 'temperature')),
    part('cf', 'climate-i2c-fixed', 'temperature'),
  )
  expect(['ca', 'cb', 'cc'].map((id) => d.parts[id]?.settings.address)).toEqual(['0x76', '0x77', '0x76'])
  expect(d.parts.cf?.settings.address).toBeUndefined()
})

test('a distance wished for as a level is one; a reading that is no distance is not', () => {
  const wish = (kind: string, channel: string) => {
    const add = part('pp', kind, channel)
    const item = catalog.parts[kind]
    if (add.kind !== 'add-part' || !item) throw new Error('no part')
    return wishedEdits(item, add, 'level of the tank')
  }
  expect(wish('ranger-echo', 'distance')).toEqual([{ kind: 'condition', signalId: 'spp', set: { mountM: 1 } }])
  expect(wish('climate-i2c-two', 'temperature')).toEqual([])
  expect(wish('relay-module-high', 'switch')).toEqual([])
})

test('only a chip that needs it gets the wire that ends its sleep, and only when it sleeps', () => {
  const wake = (board: string, sleeps: boolean) => {
    const d = after(blank(board), part('th', 'thermometer-one-wire', 'temperature'))
    const asleep = sleeps ? after(d, { kind: 'sleep', everyS: 600 }) : d
    return wiringOf(asleep, catalog).wires.filter((w) => w.tag === 'WAKE').length
  }
  expect([wake('board-8266-16', true), wake('board-8266-16', false), wake('board-32-30', true)]).toEqual([1, 0, 0])
})

test('a load has two ends: supply and ground, or its two contacts', () => {
  const ends = (kind: string) => loadTerminals(catalog.parts[kind]).map((t) => t.role)
  for (const kind of ['lamp-12v', 'pump-12v', 'motor-9v', 'contactor-mains', 'siren-12v'])
    expect(ends(kind)).toHaveLength(2)
  expect(ends('siren-12v')).toEqual(['supply', 'ground'])
  expect(ends('thermistor')).toEqual([])
  expect(new Set(ends('motor-9v'))).toEqual(new Set(['contact']))
  expect(ends('contactor-mains')).toEqual(['supply', 'ground'])
})

test('the same on others: only what differs is set', () => {
  const d = after(
    blank(),
    part('ta', 'contact-reed', 'open'),
    part('tb', 'contact-reed', 'open'),
    part('tc', 'contact-reed', 'open'),
    { kind: 'condition', signalId: 'sta', set: { debounceMs: 77 } },
    { kind: 'condition', signalId: 'stb', set: { debounceMs: 77 } },
  )
  expect(sameOnOthers(d, catalog, 'sta')).toEqual([{ kind: 'condition', signalId: 'stc', set: { debounceMs: 77 } }])
  expect(sameOnOthers(d, catalog, 'gone')).toEqual([])
})

test('a one-wire address goes to a part on such a line, and to one only', () => {
  const d = after(
    blank(),
    part('ta', 'thermometer-one-wire', 'temperature'),
    part('tb', 'thermometer-one-wire', 'temperature'),
  )
  const rom = '28ff641e8d3c0ac1'
  const place = (of: Design, partId: string) => refused(of, { kind: 'place-part', partId, set: { rom } })
  expect(place(after(d, part('key', 'button-ground', 'press')), 'key')).toMatch(/no one-wire line/)
  const set = after(d, { kind: 'place-part', partId: 'ta', set: { rom } })
  expect(place(set, 'ta')).toBe('')
  expect(place(set, 'tb')).toMatch(/has this address already/)
})

test('the nearest sizes that are sold begin with the one that is wanted', () => {
  const fuse = (loadA: number) => offersOf('fuse', { loadA, gaugeMm2: 1.5, value: 1 })[0]?.value
  expect([fuse(2), fuse(2.001), fuse(2.01)]).toEqual([2.5, 2.5, 3.15])
})

test('a part that wakes its board says so only while the board sleeps', () => {
  const wakes = (sleeps: boolean, setting: string) => {
    const d = after(blank(), part('da', 'contact-reed', 'open'), set('da', 'wakes', setting))
    const [signal] = fileOf(sleeps ? after(d, { kind: 'sleep', everyS: 600 }) : d).signals
    return signal && 'wakes' in signal ? signal.wakes : undefined
  }
  expect(wakes(true, 'yes')).toMatchObject({ level: 1, pull: 'up' })
  expect([wakes(false, 'yes'), wakes(true, 'no')]).toEqual([undefined, undefined])
})

describe('mains', () => {
  test('is marked on what hangs on it, through contact and load, and on nothing of the board', () => {
    const d = after(
      blank(),
      part('mn', 'mains-230'),
      part('rel', 'relay-module-high', 'switch'),
      set('rel', 'load', 'mains load'),
      feed('rel', 'com', 'mn.l'),
      part('kk', 'contactor-mains'),
      feed('kk', 'a1', 'rel.no'),
      part('sup', 'supply-12v'),
    )
    const { wires } = wiringOf(d, catalog)
    const name = (w: (typeof wires)[number]) => `${endWords(w.from)} ${d.wires[w.key]?.insulation}`
    expect(wires.filter((w) => w.mains).map(name)).toEqual(['mn L brown', 'rel COM brown', 'kk A1 brown', 'kk A2 blue'])
    expect(wires.filter((w) => !w.mains && w.carries !== 'signal').map(name)).toEqual([
      'board VIN red',
      'board GND black',
      'rel VCC red',
      'rel GND black',
      'sup +12V yellow',
    ])
  })
})

test('a converter never feeds itself, and one that stands less than it would get is not joined', () => {
  const d = after(blank(), part('ce', 'cell-18650'), part('ba', 'boost-5v'), part('sup', 'supply-12v'))
  expect(refused(d, feed('ba', 'vin', 'ce.p'))).toBe('')
  expect(refused(d, feed('ba', 'vin', 'ba.out'))).toMatch(/begins at ba itself/)
  expect(refused(d, feed('ba', 'vin', 'sup.out'))).toMatch(/stands 2\.5 to 4\.85 V/)
})

test('of three converters in a row none may be fed by one that it feeds, however long the way round', () => {
  const boost = catalog.parts['boost-5v'] as PartKind
  // One that stands the 5 V of another, as some do.
  const terminals = boost.terminals.map((t) => (t.role === 'supply' ? { ...t, maxV: 6 } : t))
  const wide: typeof catalog = { ...catalog, parts: { ...catalog.parts, 'boost-5v': { ...boost, terminals } } }
  const apart = after(
    blank(),
    part('ce', 'cell-18650'),
    part('ca', 'boost-5v'),
    part('bo', 'boost-5v'),
    part('bp', 'boost-5v'),
    feed('ca', 'vin', 'ce.p'),
  )
  const fed = (d: Design, id: string, rail: string): Design => {
    const p = d.parts[id]
    return p ? { ...d, parts: { ...d.parts, [id]: { ...p, feeds: { vin: rail } } } } : d
  }
  const row = fed(fed(apart, 'bo', 'ca.out'), 'bp', 'bo.out')
  const board = catalog.boards[row.board.id] as Board
  const joined = (d: Design, id: string, terminal: string) => {
    const t = wide.parts[d.parts[id]?.kind ?? '']?.terminals.find((x) => x.id === terminal)
    return t ? jointsOf(d, board, wide, id, t).map((j) => j.id) : []
  }
  expect(joined(row, 'bo', 'vin')).toEqual(expect.arrayContaining(['ca.out']))
  expect(joined(row, 'bo', 'vin')).not.toContain('bo.out')
  expect(joined(row, 'bo', 'vin')).not.toContain('bp.out')
  expect(joined(row, 'bp', 'vin')).toEqual(expect.arrayContaining(['ca.out', 'bo.out']))
  expect(joined(fed(apart, 'bo', 'ca.out'), 'bo', 'vin')).toContain('bp.out')
})

test('whatever is fed from the mains without isolation is live itself; behind an isolated supply nothing is', () => {
  const marked = (d: Design) =>
    wiringOf(d, catalog)
      .wires.filter((w) => w.mains)
      .flatMap((w) => [w.from, w.to])
      .flatMap((e) => (e.kind === 'part' ? [e.partId] : []))
  const d = after(
    blank(),
    part('mn', 'mains-230'),
    part('rel', 'relay-module-high', 'switch'),
    set('rel', 'load', 'mains load'),
    feed('rel', 'com', 'mn.l'),
    part('dry', 'contact-dry', 'closed'),
    part('key', 'button-ground', 'press'),
    part('ser', 'light-i2c', 'light'),
  )
  expect(new Set(marked(d))).toEqual(new Set(['mn', 'rel']))
  expect(marked(after(d, feed('rel', 'com', null)))).not.toContain('rel')
})

describe('an analog part at a converter', () => {
  const hosted = after(blank(), part('conv', 'adc-i2c-4'), part('soil', 'soil-analog', 'moisture'), {
    kind: 'set-bus',
    partId: 'soil',
    bus: 'conv:2',
  })
  test('is read there: bus pins and address of the converter, the input by its number', () => {
    const [signal] = fileOf(hosted).signals
    expect(signal).toMatchObject({ driver: 'converter', chip: 'adc-48', address: 0x48, input: 2 })
    expect(fileOf(after(hosted, { kind: 'set-bus', partId: 'soil', bus: null })).signals[0]).toMatchObject({
      driver: 'adc',
    })
  })
  test('a part that follows its supply is a ratio where that is measured on the same rail, and only there', () => {
    const d = after(blank('board-32-30'), part('pot', 'potentiometer', 'share'), part('tap', 'supply-tap', 'supply'))
    const ratio = (of: Design) => fileOf(of).signals.find((s) => s.slug === 'setting')
    const rail = d.parts.pot?.feeds.top ?? ''
    const tapped = after(d, feed('tap', 'vin', rail))
    const tap = fileOf(tapped).signals.find((s) => s.slug === 'supply')
    const pin = tap?.driver === 'adc' ? tap.pins.a : -1
    // Half of 3.3 V stands at the tap.
    expect(ratio(tapped)).toMatchObject({ driver: 'ratio', supply: { pin, nominalV: 1.65 } })
    expect(ratio(after(tapped, feed('tap', 'vin', null)))).toMatchObject({ driver: 'adc' })
  })
  test('only a part with one analog line goes there, at an input nobody has', () => {
    const d = after(
      hosted,
      part('pot', 'potentiometer', 'share'),
      part('rng', 'ranger-echo', 'distance'),
      part('key', 'button-ground', 'press'),
    )
    expect(refused(d, { kind: 'set-bus', partId: 'pot', bus: 'conv:2' })).not.toBe('')
    expect(refused(d, { kind: 'set-bus', partId: 'pot', bus: 'conv:3' })).toBe('')
    expect(refused(d, { kind: 'set-bus', partId: 'rng', bus: 'conv:0' })).not.toBe('')
    expect(refused(d, { kind: 'set-bus', partId: 'key', bus: 'conv:0' })).not.toBe('')
    expect(refused(d, { kind: 'set-bus', partId: 'pot', bus: 'conv:9' })).not.toBe('')
    expect(refused(d, { kind: 'set-bus', partId: 'pot', bus: 'gone:0' })).not.toBe('')
    // Each with its own reason: no line, not analog, too fast.
    expect(refused(d, { kind: 'set-bus', partId: 'key', bus: 'conv:0' })).toMatch(/key is on no bus/)
    const more = after(d, part('mic', 'microphone-analog', 'loudness'), part('sup', 'supply-12v'))
    expect(refused(more, { kind: 'set-bus', partId: 'mic', bus: 'conv:0' })).toMatch(/moves faster/)
    expect(refused(more, { kind: 'set-bus', partId: 'sup', bus: 'conv:0' })).toMatch(/sup is on no bus/)
    expect(refused(more, { kind: 'set-bus', partId: 'rng', bus: 'conv:0' })).toMatch(/rng is on no bus/)
  })
})

test('a thermometer is nameless only where several share its wire; a part of another kind does not count', () => {
  const one = after(
    blank(),
    part('ta', 'thermometer-one-wire', 'temperature'),
    part('cl', 'climate-i2c-two', 'temperature'),
    part('ck', 'climate-i2c-two', 'humidity'),
    set('ck', 'address', '0x77'),
  )
  const rom = (d: Design) =>
    fileOf(d)
      .signals.filter((s) => s.driver === 'onewire')
      .map((s) => ('rom' in s ? s.rom : undefined))
  expect(rom(one)).toEqual([undefined])
  const two = after(
    one,
    part('tb', 'thermometer-one-wire', 'temperature'),
    { kind: 'set-bus', partId: 'ta', bus: 'a' },
    { kind: 'set-bus', partId: 'tb', bus: 'a' },
  )
  expect(rom(two)).toEqual(['unknown', 'unknown'])
  expect(rom(after(two, { kind: 'set-bus', partId: 'tb', bus: 'own' }))).toEqual([undefined, undefined])
})

test('a sensor behind a multiplexer is reached by the pins of the multiplexer', () => {
  const d = after(
    blank(),
    part('mux', 'mux-i2c-8'),
    part('cl', 'climate-i2c-two', 'temperature'),
    { kind: 'set-bus', partId: 'cl', bus: 'mux:3' },
    part('own', 'climate-i2c-two', 'humidity'),
    { kind: 'set-bus', partId: 'own', bus: 'b' },
  )
  const [behind, own] = fileOf(d).signals
  const planned = Object.values(d.plan.pins).map(
    (label) => pinByLabel(catalog.boards['board-32-30'] as Board, label)?.chip,
  )
  expect(behind).toMatchObject({ mux: { address: 0x70, branch: 3 } })
  const used = [behind, own].flatMap((s) => (s?.driver === 'i2c' ? [s.pins.sda, s.pins.scl] : []))
  // Two buses: four pins, each once, all of the plan.
  expect(new Set(used).size).toBe(4)
  expect([...used].sort()).toEqual([...planned].sort())
})

test('a thermometer beside a shared bus of other parts has its wire to itself', () => {
  const d = after(
    blank(),
    part('ca', 'climate-i2c-two', 'temperature'),
    part('cb', 'climate-i2c-two', 'humidity'),
    part('ta', 'thermometer-one-wire', 'temperature'),
  )
  const found = fileOf(d).signals.find((s) => s.driver === 'onewire')
  expect(found && 'rom' in found ? found.rom : undefined).toBeUndefined()
})

test('fields are called by their words in the history', () => {
  const tank = slipTank()
  expect(editWords({ kind: 'condition', signalId: 'slevel', set: { averageS: 5 } }, tank)).toMatch(/average 0 → 5/)
  expect(editWords({ kind: 'place-part', partId: 'ranger', set: { cableM: 2 } }, tank)).toMatch(/cable, m/)
})

test('only what cannot be written is told, by its tag', () => {
  const d = after(blank(), part('key', 'button-ground', 'press'), part('th', 'thermistor', 'temperature'))
  const c = compile(d, NO_SURROUNDINGS, catalog, BROKER, 1)
  expect(c).toEqual({ ok: false, reasons: [expect.stringMatching(/^T1: A of th lacks the resistor/)] })
})

test('a board that USB could feed as well gets one diode for its feed, and only where it has none of its own', () => {
  const diodes = (board: string, ...more: EditBody[]) =>
    Object.values(
      after(
        blank(board),
        part('ca', 'supply-5v'),
        part('cb', 'supply-5v'),
        { kind: 'feed-board', rail: 'ca.out' },
        ...more,
      ).added,
    ).flatMap((c) => (c.type === 'feed-diode' ? [c.rail] : []))
  expect(diodes('board-32-30')).toEqual([])
  expect(diodes('board-rp2040-40')).toEqual(['ca.out'])
  expect(diodes('board-rp2040-40', { kind: 'feed-board', rail: 'ca.out' })).toEqual(['ca.out'])
  expect(diodes('board-rp2040-40', { kind: 'feed-board', rail: 'cb.out' })).toEqual(['cb.out'])
  expect(diodes('board-rp2040-40', { kind: 'feed-board', rail: null })).toEqual([])
  // Beside another component, and fed again: the diode that is there stays, with its name.
  const fed = after(
    blank('board-rp2040-40'),
    part('ca', 'supply-5v'),
    { kind: 'feed-board', rail: 'ca.out' },
    {
      kind: 'add-component',
      componentId: 'cc',
      component: { type: 'bulk', rail: 'ca.out', names: ['C1'], farad: 1e-4 },
    },
  )
  expect(after(fed, { kind: 'feed-board', rail: 'ca.out' }).added).toEqual(fed.added)
})

describe('an edited node file', () => {
  const ruled = after(
    slipTank(),
    part('da', 'contact-reed', 'open'),
    part('db', 'contact-reed', 'open'),
    { kind: 'condition', signalId: 'spump', set: { atStart: 'follow', follows: 'sda' } },
    {
      kind: 'set-rule',
      ruleId: 'r1',
      rule: { from: 'sda', when: true, forS: 0, to: 'spump', do: true, works: 'always' },
    },
    {
      kind: 'set-rule',
      ruleId: 'r2',
      rule: { from: 'sda', when: false, forS: 5, to: 'spump', do: false, works: 'always' },
    },
    { kind: 'set-guard', guardId: 'g1', guard: { kind: 'needs', output: 'spump', input: 'sdb', is: true } },
  )
  const edits = (change: (f: NodeFile) => void) => {
    const file = structuredClone(fileOf(ruled))
    change(file)
    return importNodeFile(JSON.stringify(file), ruled, NO_SURROUNDINGS, catalog, BROKER)
  }
  const slug = (id: string) => ruled.signals[id]?.slug ?? ''

  test('another input to follow brings the state along that makes it mean something', () => {
    const result = edits((f) => {
      const pump = f.signals.find((s) => s.slug === 'pump')
      if (pump && 'follows' in pump) pump.follows = slug('sdb')
    })
    if (!result.ok) throw new Error('refused')
    expect(result.design.signals.spump?.conditioning).toMatchObject({ atStart: 'follow', follows: 'sdb' })
    expect(result.done).toHaveLength(1)
  })
  test('a rule or a guard that is gone is dropped by its own id; the others stay', () => {
    const without = (change: (f: NodeFile) => void) => {
      const result = edits(change)
      if (!result.ok) throw new Error('refused')
      return { rules: Object.keys(result.design.rules), guards: Object.keys(result.design.guards), done: result.done }
    }
    expect(without((f) => void f.rules?.splice(1, 1))).toEqual({
      rules: ['r1'],
      guards: ['g1'],
      done: ['a local rule is gone'],
    })
    expect(without((f) => void f.rules?.splice(0, 1)).rules).toEqual(['r2'])
    expect(without((f) => delete f.guards)).toEqual({ rules: ['r1', 'r2'], guards: [], done: ['a guard is gone'] })
    expect(without(() => undefined).done).toEqual([])
  })
  test('a signal that is left out is no longer told, and only it', () => {
    const result = edits((f) => {
      f.signals = f.signals.filter((s) => s.slug !== 'water')
    })
    if (!result.ok) throw new Error('refused')
    expect(result.done).toEqual(['water is no longer told'])
    expect(Object.keys(ruled.signals).filter((id) => !(id in result.design.signals))).toEqual(['swater'])
  })
  test('a signal by another name is the same one renamed; one the design has no part for is refused', () => {
    const renamed = edits((f) => {
      const [first] = f.signals
      if (first) first.slug = 'levels'
    })
    if (!renamed.ok) throw new Error('refused')
    expect(renamed.design.signals.slevel?.slug).toBe('levels')
    const added = edits((f) => {
      const press = f.signals.find((s) => s.slug === 'press')
      if (press?.driver === 'button') f.signals.push({ ...press, slug: 'bell', pins: { a: 4 } })
    })
    expect(added).toMatchObject({
      ok: false,
      problems: [{ found: expect.stringMatching(/“bell”/), expected: expect.stringMatching(/begins with its part/) }],
    })
  })
})

test('a refusal names what there is instead', () => {
  const tank = slipTank()
  const accepts = (edit: EditBody) => {
    const applied = applyEdit(tank, edit, catalog)
    return applied.ok ? '' : applied.accepts
  }
  const more = after(tank, part('rel', 'relay-module-high'))
  const applied = applyEdit(more, set('rel', 'nothing', 1), catalog)
  expect(applied.ok ? '' : applied.accepts).toMatch(/load/)
  expect(accepts(set('pump', 'nothing', 1))).toMatch(/no settings/)
  expect(accepts({ kind: 'add-signal', partId: 'pump', signal: { id: 'sx', channel: 'nothing', slug: 'x-x' } })).toBe(
    '',
  )
  expect(refused(tank, { kind: 'made-otherwise', line: 'pump.in', pin: 'P99' })).not.toBe('')
})

test('what an output follows goes with it, and the state at power-up with that; another output keeps its own', () => {
  const d = after(
    slipTank(),
    part('da', 'contact-reed', 'open'),
    part('re', 'relay-module-high', 'switch'),
    { kind: 'condition', signalId: 'spump', set: { atStart: 'follow', follows: 'sda' } },
    { kind: 'condition', signalId: 'sre', set: { atStart: 'on' } },
  )
  expect(d.signals.spump?.conditioning).toMatchObject({ atStart: 'follow', follows: 'sda' })
  const gone = after(d, { kind: 'remove-part', partId: 'da' })
  expect(gone.signals.spump?.conditioning).toMatchObject({ atStart: 'off', follows: null })
  expect(gone.signals.sre?.conditioning).toMatchObject({ atStart: 'on', follows: null })
})

test('what cannot be is refused with the reason', () => {
  const tank = slipTank()
  expect(
    refused(tank, { kind: 'set-guard', guardId: 'gg', guard: { kind: 'exclusive', of: ['spump', 'spump'] } }),
  ).toMatch(/cannot exclude itself/)
  const keys = after(blank(), ...Array.from({ length: 6 }, (_, i) => part(`k${i}`, 'button-ground', 'press')))
  const gather = (n: number): EditBody => ({
    kind: 'gather',
    partIds: Array.from({ length: n }, (_, i) => `k${i}`),
    part: 'keys-ladder-5',
    partId: 'lad',
    label: 'ladder',
  })
  expect(refused(keys, gather(5))).toBe('')
  expect(refused(keys, gather(6))).toMatch(/takes 5 contacts/)
  expect(refused(tank, { kind: 'made-otherwise', line: 'gone.a', pin: 'D4' })).toMatch(/no longer in the design/)
  const heard = after(tank, part('rx', 'receiver-subghz'), {
    kind: 'add-signal',
    partId: 'rx',
    signal: { id: 'srx', channel: 'heard', slug: 'air' },
  })
  const rule = (from: string): EditBody => ({
    kind: 'set-rule',
    ruleId: 'rr',
    rule: { from, when: true, forS: 0, to: 'spump', do: true, works: 'always' },
  })
  expect(applyEdit(heard, rule('srx'), catalog)).toMatchObject({
    ok: false,
    accepts: expect.stringMatching(/not decoded on the node/),
  })
  expect(applyEdit(heard, rule('spress'), catalog)).toMatchObject({
    ok: false,
    accepts: expect.stringMatching(/^single, double/),
  })
})

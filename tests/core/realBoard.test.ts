import fs from 'node:fs'
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { importsAtLoad, loadOrder, neededModules } from '../../src/core/bundle/neededModules'
import { mostOf, needOf } from '../../src/core/bundle/memoryNeed'
import moduleHeap from '../../src/core/bundle/moduleHeap.json'
import { runChecks } from '../../src/core/checks/runChecks'
import { type Design, designSchema, RESERVED_SLUGS } from '../../src/core/model/design'
import type { EditBody } from '../../src/core/edits/edit'
import { designText, readDesign } from '../../src/core/model/readDesign'
import { freeOfReserved, isReservedNode } from '../../src/core/model/reserved'
import { compile } from '../../src/core/nodefile/compile'
import { planPins } from '../../src/core/pins/planPins'
import { scheduleOf } from '../../src/core/wiring/schedule'
import { wiringOf } from '../../src/core/wiring/netlist'
import { runtimeFiles, unreachable } from '../../src/server/nodes/installBundle'
import { after, blank, catalog, slipTank } from '../support/designs'
import { NO_SURROUNDINGS } from '../../src/core/surroundings/surroundings'

// What a real board refuses or needs, as far as it is decided before anything is written onto it.
const broker = { host: '192.0.2.1', port: 1883, root: 'vn' }
const demo = (name: string): Design =>
  designSchema.parse(JSON.parse(fs.readFileSync(`demo/designs/${name}.json`, 'utf8')))
const planned = (design: Design): Design => {
  const plan = planPins(design, catalog)
  if (plan.kind !== 'planned') throw new Error(plan.kind)
  return { ...design, plan: { ...design.plan, pins: plan.pins } }
}
const fileOf = (design: Design, at = broker) => {
  const made = compile(design, NO_SURROUNDINGS, catalog, at, 1)
  if (!made.ok) throw new Error(made.reasons.join('; '))
  return made.compiled.file
}
const thermometers = (n: number): EditBody[] =>
  Array.from({ length: n }, (_, i) => `t${i}x`).flatMap((partId): EditBody[] => [
    {
      kind: 'add-part',
      partId,
      part: 'thermometer-one-wire',
      label: `Probe ${partId}`,
      signals: [{ id: `s${partId}`, channel: 'temperature' }],
    },
    { kind: 'set-bus', partId, bus: 'a' },
  ])

describe('several thermometers on one wire', () => {
  const two = planned(after(blank(), ...thermometers(2)))
  const [ROM_A, ROM_B] = ['2801000000000023', '28020000000000d1']
  test('without addresses they stay unknown in the file, and a finding says what to do', () => {
    expect(fileOf(two).signals.map((s) => s.driver === 'onewire' && s.rom)).toEqual(['unknown', 'unknown'])
    expect(
      runChecks(two, catalog)
        .filter((f) => f.rule === 'one-wire-unnamed')
        .map((f) => f.partId),
    ).toEqual(['t0x', 't1x'])
  })
  test('with them each is asked for by its own; one alone is asked by nobody’s', () => {
    const told = after(
      two,
      { kind: 'place-part', partId: 't0x', set: { rom: ROM_A } },
      { kind: 'place-part', partId: 't1x', set: { rom: ROM_B } },
    )
    expect(fileOf(told).signals.map((s) => s.driver === 'onewire' && s.rom)).toEqual([ROM_A, ROM_B])
    expect(runChecks(told, catalog).some((f) => f.rule === 'one-wire-unnamed')).toBe(false)
    const alone = planned(after(blank(), ...thermometers(1)))
    expect(fileOf(alone).signals[0]).not.toHaveProperty('rom')
    expect(readDesign(designText(told), catalog)).toMatchObject({ ok: true })
  })
  test('an address belongs to one part, and to a part on such a wire', () => {
    const told = after(two, { kind: 'place-part', partId: 't0x', set: { rom: ROM_A } })
    expect(() => after(told, { kind: 'place-part', partId: 't1x', set: { rom: ROM_A } })).toThrow(
      /has this address already/,
    )
    expect(() =>
      after(slipTank(), { kind: 'place-part', partId: Object.keys(slipTank().parts)[0] ?? '', set: { rom: ROM_A } }),
    ).toThrow(/on no one-wire line/)
  })
})

describe('words that topics have got a meaning for', () => {
  const collide = (slug: string, signal: string): Design => {
    const tank = slipTank()
    const [id = '', s] = Object.entries(tank.signals)[0] ?? []
    return { ...tank, slug, signals: { ...tank.signals, ...(s ? { [id]: { ...s, slug: signal } } : {}) } }
  }
  test('a design from before is read with other names, and says so', () => {
    const read = readDesign(designText(collide('mode', 'late')), catalog)
    if (!read.ok) throw new Error(JSON.stringify(read.problems))
    expect(read.said).toHaveLength(2)
    expect(read.said?.join()).toMatch(/“late” has got a meaning.*“mode” has got/s)
    expect(isReservedNode(read.value.slug)).toBe(false)
  })
  test('whatever it was called, nothing collides afterwards, ids stay, and a second look changes nothing', () => {
    const words = fc.constantFrom(...RESERVED_SLUGS, 'product', 'mode', 'time', 'slip-tank', 'pump')
    fc.assert(
      fc.property(words, words, (slug, signal) => {
        const { design, said } = freeOfReserved(collide(slug, signal))
        const slugs = Object.values(design.signals).map((s) => s.slug)
        expect(slugs.filter((s) => RESERVED_SLUGS.some((r) => r === s))).toEqual([])
        expect(isReservedNode(design.slug)).toBe(false)
        expect(Object.keys(design.signals)).toEqual(Object.keys(slipTank().signals))
        expect(freeOfReserved(design)).toEqual({ design, said: [] })
        expect(said.length > 0).toBe(isReservedNode(slug) || RESERVED_SLUGS.some((r) => r === signal))
      }),
      { numRuns: 60 },
    )
  })
  test('no edit brings one back', () => {
    for (const slug of ['find', 'close', 'strength', 'late', 'heard'])
      expect(() =>
        after(slipTank(), {
          kind: 'rename-signal',
          signalId: Object.keys(slipTank().signals)[0] ?? '',
          name: 'x',
          slug,
        }),
      ).toThrow(/meaning of its own/)
  })
})

describe('sleep', () => {
  const reed: EditBody = {
    kind: 'add-part',
    partId: 'lid',
    part: 'contact-reed',
    label: 'Lid',
    signals: [{ id: 'slid', channel: 'open' }],
  }
  test('a board nothing wakes by time is refused with its reason, a longer sleep than a chip counts too', () => {
    const rp = planned(after(blank('board-rp2040-40'), { kind: 'sleep', everyS: 600 }))
    expect(compile(rp, NO_SURROUNDINGS, catalog, broker, 1)).toMatchObject({
      ok: false,
      reasons: [expect.stringMatching(/nothing on this board ends its sleep by time/)],
    })
    const long = planned(after(blank('board-8266-16'), { kind: 'sleep', everyS: 4261 }))
    expect(compile(long, NO_SURROUNDINGS, catalog, broker, 1)).toMatchObject({
      ok: false,
      reasons: [expect.stringMatching(/counts 4260 s at most/)],
    })
    expect(compile(after(long, { kind: 'sleep', everyS: 4260 }), NO_SURROUNDINGS, catalog, broker, 1).ok).toBe(true)
  })
  test('the wire that ends the sleep is in the list, and off while the board is written', () => {
    const asleep = planned(after(blank('board-8266-16'), { kind: 'sleep', everyS: 600 }))
    const row = scheduleOf(asleep, wiringOf(asleep, catalog)).find((r) => r.tag === 'WAKE')
    expect([row?.from, row?.to].sort()).toEqual(['board D0', 'board RST'])
    expect(row?.note).toMatch(/off while the board is written/)
    expect(wiringOf(planned(blank('board-8266-16')), catalog).wires.some((w) => w.tag === 'WAKE')).toBe(false)
  })
  test('a line that is to end it carries its pin, its pull and the level of “on”', () => {
    const design = planned(
      after(
        blank(),
        reed,
        { kind: 'set-part', partId: 'lid', setting: 'wakes', value: 'yes' },
        { kind: 'sleep', everyS: 600 },
      ),
    )
    const [lid] = fileOf(design).signals
    const pin = lid?.driver === 'contact' ? lid.pins.a : -1
    expect([0, 2, 4, 12, 13, 14, 15, 25, 26, 27, 32, 33, 34, 35, 36, 39]).toContain(pin)
    expect(lid).toMatchObject({ wakes: { pin, level: lid && 'activeLow' in lid && lid.activeLow ? 0 : 1 } })
  })
})

describe('reaching the broker', () => {
  const secure = { ...broker, secure: { port: 8883, print: 'ab'.repeat(32) } }
  const wish = (board: string) =>
    after(blank(board), { kind: 'connect', ref: 'house', address: 'lease', fixed: null, keepAliveS: 10, secure: true })
  test('through TLS where board and broker can, by the print; refused with the reason where not', () => {
    expect(fileOf(wish('board-32-30'), secure).broker).toMatchObject({ port: 8883, print: 'ab'.repeat(32) })
    expect(fileOf(blank(), secure).broker).toEqual({ host: '192.0.2.1', port: 1883, keepAliveS: 10 })
    expect(compile(wish('board-32-30'), NO_SURROUNDINGS, catalog, broker, 1)).toMatchObject({
      ok: false,
      reasons: [expect.stringMatching(/has no certificate/)],
    })
    expect(compile(wish('board-8266-16'), NO_SURROUNDINGS, catalog, secure, 1)).toMatchObject({
      ok: false,
      reasons: [expect.stringMatching(/no memory for that/)],
    })
  })
  test('this machine’s own loop is no address for a board', () => {
    for (const host of ['127.0.0.1', 'localhost', '0.0.0.0', '127.8.8.8'])
      expect(unreachable(host)).toMatch(/cannot reach the broker/)
    for (const host of ['192.168.1.7', 'broker.local', '10.0.0.2']) expect(unreachable(host)).toBe(null)
  })
})

describe('codes from the air', () => {
  const ear: EditBody = {
    kind: 'add-part',
    partId: 'ear',
    part: 'receiver-subghz',
    label: 'Ear',
    signals: [{ id: 'sear', channel: 'heard' }],
  }
  const notes = (board: string) =>
    runChecks(after(blank(board), ear), catalog)
      .filter((f) => f.rule === 'codes-too-short')
      .map((f) => f.severity)
  test('what a class tells is said where its interrupts are soft, and not where a machine or a hard interrupt times them', () => {
    expect([notes('board-32-30'), notes('board-c6-32'), notes('board-rp2040-40'), notes('board-8266-16')]).toEqual([
      ['note'],
      ['note'],
      [],
      [],
    ])
  })
})

describe('memory', () => {
  const sources = runtimeFiles('device')
  test('the table’s imports are those of the runtime, for every demo node and chip', () => {
    const table: Record<string, { imports: string[] }> = moduleHeap.modules
    for (const name of ['slip-tank', 'damp-cupboard', 'kiln-vent', 'wheel-panel', 'yard-bridge', 'gallery-door']) {
      const design = demo(name)
      const { chip } = catalog.boards[design.board.id]?.interpreter ?? { chip: '32-class' as const }
      const order = loadOrder(fileOf(design), importsAtLoad(sources), chip)
      expect(
        loadOrder(fileOf(design), (path) => table[path]?.imports, chip),
        `${name}: npm run heap`,
      ).toEqual(order)
      expect(neededModules(fileOf(design), sources, chip)).toEqual(expect.arrayContaining(order))
      // The bound that spares most designs the reckoning is one.
      expect(needOf(fileOf(design), chip).totalB).toBeLessThan(mostOf(Object.keys(design.signals).length))
    }
  })
  test('a node too large for the smallest board is stopped before it is installed; the demo nodes are not', () => {
    const big = (board: string) =>
      [
        'climate-i2c-two',
        'light-i2c',
        'display-i2c',
        'thermometer-one-wire',
        'led-pwm',
        'contact-dry',
        'pressure-i2c',
      ].reduce((d, part, i) => {
        const kind = catalog.parts[part]
        return after(d, {
          kind: 'add-part',
          partId: `p${i}q`,
          part,
          label: `P${i}`,
          signals: (kind?.channels ?? []).map((c, n) => ({ id: `s${i}n${n}`, channel: c.id, slug: `s${i}-${n}` })),
        })
      }, blank(board))
    const memory = (d: Design) =>
      runChecks(planned(d), catalog)
        .filter((f) => f.rule === 'memory')
        .map((f) => f.severity)
    expect(memory(big('board-8266-16'))).toEqual(['stop'])
    expect(memory(big('board-s3-44'))).toEqual([])
    for (const name of ['kiln-vent', 'gallery-door'])
      expect(
        runChecks(demo(name), catalog).filter((f) => f.rule === 'memory' && f.severity === 'stop'),
        name,
      ).toEqual([])
  })
})

import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { linesOf } from '../../src/core/catalog/part'
import { applyEdit } from '../../src/core/edits/apply'
import type { Design } from '../../src/core/model/design'
import type { EditBody } from '../../src/core/edits/edit'
import { compile } from '../../src/core/nodefile/compile'
import { type NodeFileSignal, nodeFileSchema } from '../../src/core/nodefile/nodeFile'
import { applyAll } from '../../src/core/alternatives/remedies'
import { blank, catalog } from '../support/designs'
import { NO_SURROUNDINGS } from '../../src/core/surroundings/surroundings'

const broker = { host: '127.0.0.1', port: 1883, root: 'vn' }
const part = (partId: string, kind: string, channel: string): EditBody => ({
  kind: 'add-part',
  partId,
  part: kind,
  label: partId,
  signals: [{ id: `s${partId}`, channel, slug: partId }],
})
const made = (edits: EditBody[], board = 'board-32-30'): Design =>
  applyAll(blank(board), edits, catalog) ??
  (() => {
    throw new Error('cannot be made')
  })()
function entry(edits: EditBody[], slug: string, board?: string): NodeFileSignal {
  const result = compile(made(edits, board), NO_SURROUNDINGS, catalog, broker, 1)
  if (!result.ok) throw new Error(result.reasons.join('; '))
  return (
    result.compiled.file.signals.find((s) => s.slug === slug) ??
    (() => {
      throw new Error(slug)
    })()
  )
}
const pull = (line: string): EditBody => ({
  kind: 'add-component',
  componentId: 'pp',
  component: { type: 'pull', line, names: ['R1'], level: 'high', ohm: 10_000, tolerance: 0.05 },
})

describe('a node that says nothing on its console', () => {
  const fileOf = (design: Design) => {
    const result = compile(design, NO_SURROUNDINGS, catalog, broker, 1)
    if (!result.ok) throw new Error(result.reasons.join('; '))
    return result.compiled.file
  }
  const button = part('btn', 'button-ground', 'press')
  test('by its setting, and by itself where a wire is on the console’s pins; never without either', () => {
    expect(fileOf(made([button])).quiet ?? false).toBe(false)
    const set: EditBody = { kind: 'connect', ref: 'house', address: 'lease', fixed: null, keepAliveS: 10, quiet: true }
    expect(fileOf(made([button, set])).quiet).toBe(true)
    const onConsole: EditBody = { kind: 'made-otherwise', line: 'btn.a', pin: 'RX0' }
    expect(fileOf(made([button, onConsole])).quiet).toBe(true)
  })
})

describe('pulls', () => {
  const door = [part('door', 'contact-reed', 'open')]
  test('inside the chip where it has one, none where a resistor does it, none where the pin only reads', () => {
    expect(entry([...door, { kind: 'lock', line: 'door.a', pin: 'D23' }], 'door')).toMatchObject({ pull: 'up' })
    expect(entry([...door, { kind: 'lock', line: 'door.a', pin: 'D23' }, pull('door.a')], 'door')).not.toHaveProperty(
      'pull',
    )
    expect(entry([...door, { kind: 'lock', line: 'door.a', pin: 'D34' }, pull('door.a')], 'door')).not.toHaveProperty(
      'pull',
    )
  })
  test('pins in the file are the chip’s own numbers, not what is printed', () => {
    expect(entry([...door, { kind: 'lock', line: 'door.a', pin: 'D5' }], 'door', 'board-8266-16')).toMatchObject({
      pins: { a: 14 },
    })
  })
})

describe('senses', () => {
  const coupled: EditBody = {
    kind: 'add-component',
    componentId: 'oo',
    component: { type: 'optocoupler', line: 'loop.z', names: ['U1', 'R1', 'D1'], seriesOhm: 2200, tolerance: 0.05 },
  }
  test('a loop reads open at a high pin, and behind a coupler at a low one', () => {
    expect(entry([part('loop', 'loop-12v', 'open')], 'loop')).not.toHaveProperty('activeLow')
    expect(entry([part('loop', 'loop-12v', 'open'), coupled], 'loop')).toMatchObject({ activeLow: true })
  })
  test('a transistor turns an active-low module round, and leaves a bare coil, which needs one, as it is described', () => {
    const stage = (line: string): EditBody => ({
      kind: 'add-component',
      componentId: 'tt',
      component: {
        type: 'driver',
        line,
        names: ['Q1', 'R1', 'R2'],
        device: 'npn',
        seriesOhm: 1000,
        holdOhm: 10_000,
        tolerance: 0.05,
      },
    })
    expect(entry([part('rel', 'relay-module-low', 'switch')], 'rel')).toMatchObject({ activeLow: true })
    expect(entry([part('rel', 'relay-module-low', 'switch'), stage('rel.in')], 'rel')).not.toHaveProperty('activeLow')
    expect(entry([part('rel', 'relay-module-high', 'switch')], 'rel')).not.toHaveProperty('activeLow')
    // A bare coil waits for its transistor: until then no pin may have it.
    const [coil, hold] = [
      part('rel', 'relay-bare', 'switch'),
      {
        ...pull('rel.in'),
        component: { type: 'pull', line: 'rel.in', names: ['R9'], level: 'low', ohm: 10_000, tolerance: 0.05 },
      } as EditBody,
    ]
    expect(entry([coil, hold, stage('rel.in')], 'rel')).not.toHaveProperty('activeLow')
  })
})

// level-analog gives its voltage through 100 Ω: (0.1 + 2 + 1) / 1 of what is at the pin.
const PROBE_AND_DIVIDER = 3.1

describe('voltages', () => {
  test('0.5 to 4.5 V over 0 to 5.5 m is 1.375 m/V; a divider of 2 over 1 kΩ and the probe’s own 100 Ω make it 3.1 times that', () => {
    const thirds: EditBody = {
      kind: 'add-component',
      componentId: 'dd',
      component: {
        type: 'divider',
        line: 'probe.out',
        names: ['R1', 'R2'],
        topOhm: 2000,
        bottomOhm: 1000,
        tolerance: 0.01,
      },
    }
    expect(entry([part('probe', 'level-analog', 'level')], 'probe')).toMatchObject({
      driver: 'adc',
      perVolt: expect.closeTo(1.375, 9),
      atZero: expect.closeTo(-0.6875, 9),
    })
    expect(entry([part('probe', 'level-analog', 'level'), thirds], 'probe')).toMatchObject({
      perVolt: expect.closeTo(1.375 * PROBE_AND_DIVIDER, 6),
      atZero: expect.closeTo(-0.6875, 9),
    })
    expect(entry([part('loop', 'loop-end-resistor', 'loop')], 'loop', 'board-8266-16')).toEqual({
      slug: 'loop',
      access: 'reading',
      driver: 'adc',
      pins: { a: 17 },
      fullV: 3.2,
      chain: expect.anything(),
      publish: expect.anything(),
    })
  })
})

describe('keys', () => {
  test('each key of a matrix has a pair of its own, rows times columns of them', () => {
    for (const [kind, rows, columns] of [
      ['keys-matrix-3x4', 3, 4],
      ['keys-matrix-4x4', 4, 4],
      ['keys-matrix-5x5', 5, 5],
    ] as const) {
      const channels = catalog.parts[kind]?.channels.map((c) => c.id) ?? []
      const design = made(
        [
          {
            kind: 'add-part',
            partId: 'pad',
            part: kind,
            label: 'Pad',
            signals: channels.slice(0, 16).map((channel, i) => ({ id: `sk${i}`, channel, slug: `key-${i}` })),
          },
        ],
        'board-s3-44',
      )
      const result = compile(design, NO_SURROUNDINGS, catalog, broker, 1)
      if (!result.ok) throw new Error(result.reasons.join('; '))
      const pairs = result.compiled.file.signals.flatMap((s) => (s.driver === 'key' ? [s.pins] : []))
      expect(new Set(pairs.map((p) => `${p.row} ${p.column}`)).size).toBe(Math.min(16, rows * columns))
      expect(new Set(pairs.map((p) => p.row)).size).toBe(Math.min(rows, Math.ceil(16 / columns)))
      expect(new Set(pairs.map((p) => p.column)).size).toBe(columns)
      expect(
        linesOf(
          catalog.parts[kind] ??
            (() => {
              throw new Error(kind)
            })(),
        ).filter((t) => t.board === 'drives'),
      ).toHaveLength(rows)
    }
  })
})

test('any node compiles to a file its own schema takes, the same each time, or says for each signal what is missing', () => {
  const kinds = Object.values(catalog.parts).filter((k) => k.channels.length > 0)
  let whole = 0
  fc.assert(
    fc.property(
      fc.array(fc.constantFrom(...kinds), { minLength: 1, maxLength: 4 }),
      fc.constantFrom(...Object.keys(catalog.boards)),
      (list, board) => {
        const design = list.reduce((d, k, i) => {
          const added = applyEdit(
            d,
            {
              kind: 'add-part',
              partId: `p${i}`,
              part: k.id,
              label: `P${i}`,
              signals: [{ id: `s${i}s`, channel: k.channels[0]?.id ?? '' }],
            },
            catalog,
          )
          return added.ok ? added.design : d
        }, blank(board))
        const result = compile(design, NO_SURROUNDINGS, catalog, broker, 3)
        if (result.ok) {
          whole += 1
          expect(nodeFileSchema.parse(JSON.parse(result.compiled.text))).toEqual(result.compiled.file)
          const again = compile(structuredClone(design), NO_SURROUNDINGS, catalog, broker, 3)
          expect(again.ok && again.compiled.hash).toBe(result.compiled.hash)
          expect(result.compiled.file.signals).toHaveLength(Object.keys(design.signals).length)
        } else {
          for (const reason of result.reasons)
            expect(reason).toMatch(
              /^[A-Z][1-9]\d?: (the runtime has no driver for .+ yet|nobody has said yet .+|the runtime of this board has no room .+|.+ has no pin|.+ lacks the resistor that makes its voltage; .+)$/,
            )
        }
      },
    ),
    { numRuns: 120 },
  )
  expect(whole).toBeGreaterThan(5)
})

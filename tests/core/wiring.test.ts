import fc from 'fast-check'
import fs from 'node:fs'
import { describe, expect, test } from 'vitest'
import { runChecks } from '../../src/core/checks/runChecks'
import { addedSchema, type AddedComponent, type Design } from '../../src/core/model/design'
import { readDesign } from '../../src/core/model/readDesign'
import { planLines } from '../../src/core/lines/lines'
import { applyAll } from '../../src/core/alternatives/remedies'
import { drawSheets, drawWiring } from '../../src/core/wiring/drawing'
import { drawingFigures } from '../../src/core/wiring/drawingFigures'
import { drawingSvg } from '../../src/core/wiring/drawingSvg'
import { componentsOf, endId, wiringOf } from '../../src/core/wiring/netlist'
import { applyEdit } from '../../src/core/edits/apply'
import { addPart, addParts, after, blank, catalog, PARTS, slipTank } from '../support/designs'

const demo = fs.readdirSync('demo/designs').map((f) => {
  const read = readDesign(fs.readFileSync(`demo/designs/${f}`, 'utf8'), catalog)
  if (!read.ok) throw new Error(f)
  return read.value
})
const board = (design: Design) =>
  catalog.boards[design.board.id] ??
  (() => {
    throw new Error('no board')
  })()
const drawn = (design: Design) => drawWiring(design, catalog, board(design), wiringOf(design, catalog))

const name = fc.nat(99).map((n) => `X${n}`)
/** Any component on any line. */
const component = (line: string): fc.Arbitrary<AddedComponent> =>
  fc
    .tuple(
      fc.constantFrom('divider', 'pull', 'series', 'capacitor', 'clamp', 'diode', 'driver', 'optocoupler', 'shifter'),
      fc.uniqueArray(name, { minLength: 3, maxLength: 3 }),
      fc.integer({ min: 100, max: 1e5 }),
    )
    .map(([type, [a = '', b = '', c = ''], ohm]) =>
      addedSchema.parse(
        {
          divider: { type, line, names: [a, b], topOhm: ohm, bottomOhm: ohm, tolerance: 0.01 },
          pull: { type, line, names: [a], level: 'high', ohm, tolerance: 0.05 },
          series: { type, line, names: [a], ohm, tolerance: 0.05 },
          capacitor: { type, line, names: [a], farad: 1e-7 },
          clamp: { type, line, names: [a] },
          diode: { type, line, names: [a] },
          driver: {
            type,
            line,
            names: [a, b, c],
            device: ohm % 2 ? 'npn' : 'fet',
            seriesOhm: ohm,
            holdOhm: 10_000,
            tolerance: 0.05,
          },
          optocoupler: { type, line, names: [a, b, c], seriesOhm: ohm, tolerance: 0.05 },
          shifter: { type, line, names: [a], rail: '5V' },
        }[type],
      ),
    )

/** A node of any parts with any components on its lines. */
const anyNode = fc.array(fc.constantFrom(...PARTS), { minLength: 1, maxLength: 5 }).chain((kinds) => {
  const design = after(blank(), ...kinds.map((k, i) => addPart(`p${i}`, k)))
  const lines = planLines(design, catalog)
    .filter((l) => l.members.length === 1)
    .map((l) => l.key)
  return lines.length === 0
    ? fc.constant(design)
    : fc.array(fc.constantFrom(...lines).chain(component), { maxLength: 6 }).map((list) =>
        list.reduce((d, c, i) => {
          const added = applyEdit(d, { kind: 'add-component', componentId: `c${i}`, component: c }, catalog)
          return added.ok ? added.design : d
        }, design),
      )
})

describe('the netlist', () => {
  test('every line leads from its part to its pin through what stands in the run, every wire has a number, and a pin takes one wire', () => {
    fc.assert(
      fc.property(anyNode, (design) => {
        const { wires, components } = wiringOf(design, catalog)
        expect(new Set(wires.map((w) => w.key)).size).toBe(wires.length)
        expect(new Set(wires.map((w) => design.wires[w.key]?.number)).size).toBe(wires.length)
        for (const line of planLines(design, catalog)) {
          const pin = design.plan.pins[line.key]
          if (pin === undefined) continue
          const own = wires.filter((w) => w.line === line.key)
          for (const m of line.members) {
            // Spread from the part's terminal over the line's wires, and through components from leg to leg.
            const reached = new Set([`part:${m.partId}.${m.terminal.id}`])
            for (let grew = true; grew;) {
              const before = reached.size
              for (const w of [...own, ...wires.filter((x) => x.carries === 'signal')]) {
                const [a, b] = [endId(w.from), endId(w.to)]
                if (reached.has(a) || reached.has(b)) reached.add(a).add(b)
              }
              for (const end of [...reached]) {
                const id = /^leg:([^.]+)\./.exec(end)?.[1]
                const run =
                  id !== undefined && componentsOf(design).some((c) => c.id === id && c.place === 'in the run')
                if (run)
                  for (const w of own)
                    for (const e of [w.from, w.to]) if (e.kind === 'leg' && e.componentId === id) reached.add(endId(e))
              }
              grew = reached.size > before
            }
            expect([...reached], line.key).toContain(`pin:${pin}`)
          }
          expect(wires.filter((w) => [w.from, w.to].some((e) => e.kind === 'pin' && e.label === pin))).toHaveLength(1)
        }
        for (const c of components)
          expect(
            wires.filter((w) => [w.from, w.to].some((e) => e.kind === 'leg' && e.componentId === c.id)).length,
            c.name,
          ).toBeGreaterThan(1)
      }),
      { numRuns: 60 },
    )
  })

  test('every supply terminal that is fed and every ground meets its rail, and a fuse stands between source and rail', () => {
    for (const design of demo) {
      const { wires } = wiringOf(design, catalog)
      for (const [id, part] of Object.entries(design.parts)) {
        for (const t of catalog.parts[part.kind]?.terminals ?? []) {
          const met = wires.some((w) =>
            [w.from, w.to].some((e) => e.kind === 'part' && e.partId === id && e.terminal === t.id),
          )
          if (t.role === 'ground' || t.role === 'source' || (t.role === 'supply' && part.feeds[t.id] !== undefined))
            expect(met, `${design.slug} ${id}.${t.id}`).toBe(true)
        }
      }
    }
    const panel = demo.find((d) => d.slug === 'gallery-door') ?? slipTank()
    const fused = after(panel, {
      kind: 'add-component',
      componentId: 'fuse',
      component: { type: 'fuse', rail: 'panel.out', names: ['F1'], ratedA: 1, slow: false },
    })
    const ends = wiringOf(fused, catalog)
      .wires.filter((w) => w.key.includes('leg:fuse'))
      .map((w) => w.key)
      .sort()
    expect(ends).toEqual(['leg:fuse.a|part:panel.out', 'leg:fuse.b|rail:panel.out'])
  })

  test('a wire made to another pin is kept as it is, gets a number, and says what is wrong with it', () => {
    const otherwise = after(slipTank(), { kind: 'made-otherwise', line: 'pumprelay.in', pin: 'D34' })
    const wire = wiringOf(otherwise, catalog).wires.find((w) => w.line === 'pumprelay.in')
    expect(wire?.to).toMatchObject({ kind: 'pin', label: 'D34' })
    expect(otherwise.wires[wire?.key ?? '']).toMatchObject({ made: true })
    expect(runChecks(otherwise, catalog).map((f) => f.rule)).toEqual(
      expect.arrayContaining(['pin-unfit', 'line-without-pin']),
    )
    expect(runChecks(otherwise, catalog).find((f) => f.rule === 'pin-unfit')?.sentence).toMatch(
      /Pump relay IN is on D34, and D34 only reads/,
    )
  })
})

describe('the drawing', () => {
  const clean = { crossings: 0, bends: 0, overlaps: 0, smallest: 14 }
  test('of every demo node: nothing crosses, bends or covers words; the same each time', () => {
    for (const design of demo) {
      expect(drawingFigures(drawn(design)), design.slug).toMatchObject(clean)
      expect(drawn(design)).toEqual(drawn(design))
    }
  })

  test('of any node with any components', () => {
    fc.assert(
      fc.property(anyNode, (design) => {
        expect(drawingFigures(drawn(design))).toMatchObject(clean)
      }),
      { numRuns: 60 },
    )
  })

  test('the figures see a crossing, a bend and covered words', () => {
    const base = drawn(slipTank())
    const wire = (net: string, points: [number, number][]) => ({
      kind: 'wire' as const,
      net,
      line: null,
      signalId: null,
      points,
      thread: false,
    })
    const text = {
      kind: 'text' as const,
      x: 0,
      y: -100,
      text: 'WORDS',
      size: 14,
      anchor: 'start' as const,
      mono: true,
      soft: false,
      bold: false,
      ground: false,
    }
    expect(
      drawingFigures({
        ...base,
        shapes: [
          wire('a', [
            [0, 0],
            [10, 10],
          ]),
          wire('b', [
            [0, 10],
            [10, 0],
          ]),
          text,
        ],
      }),
    ).toMatchObject({ crossings: 1, bends: 0, overlaps: 0 })
    expect(
      drawingFigures({
        ...base,
        shapes: [
          wire('a', [
            [0, 0],
            [10, 0],
            [10, 10],
          ]),
          text,
          { ...text, x: 20 },
          wire('b', [
            [-5, -104],
            [5, -104],
          ]),
        ],
      }),
    ).toMatchObject({ crossings: 0, bends: 1, overlaps: 2 })
  })

  test('forty wires fit on sheets of A4, each as clean as one', () => {
    const kinds = [
      'ranger-echo',
      'relay-module-low',
      'relay-module-high',
      'thermometer-one-wire',
      'button-ground',
      'button-ground',
      'encoder-push',
      'motion-module',
      'fet-stage',
      'toggle-lamp',
      'thermistor',
      'soil-analog',
      'contact-reed',
      'thermocouple-spi',
    ]
    const large = after(blank('board-32-30'), ...addParts(kinds))
    expect(wiringOf(large, catalog).wires.length).toBeGreaterThanOrEqual(40)
    const sheets = drawSheets(large, catalog, board(large), wiringOf(large, catalog), 1150)
    expect(sheets.length).toBeGreaterThan(1)
    for (const s of sheets) {
      expect(s.height).toBeLessThanOrEqual(1150)
      expect(drawingFigures(s)).toMatchObject(clean)
    }
    // Each line is drawn on one sheet, and on one only.
    const runs = sheets.flatMap((s) => s.shapes.flatMap((x) => (x.kind === 'wire' && x.thread ? [x.net] : []))).sort()
    expect(runs).toEqual(Object.keys(large.plan.pins).sort())
  })

  test('shows where a resistor really sits: the one that holds a base is at the transistor, before the series resistor', () => {
    const design = after(blank(), addPart('relay', 'relay-module-low'), {
      kind: 'add-component',
      componentId: 'qq',
      component: {
        type: 'driver',
        line: 'relay.in',
        names: ['Q1', 'R1', 'R2'],
        device: 'npn',
        seriesOhm: 4700,
        holdOhm: 10_000,
        tolerance: 0.05,
      },
    })
    const hold = wiringOf(design, catalog).wires.find((w) => w.from.kind === 'leg' && w.from.label === 'R2.a')
    expect(hold?.to).toMatchObject({ label: 'Q1.B' })
    const x = (name: string) =>
      drawn(design).shapes.flatMap((s) =>
        (s.kind === 'text' || s.kind === 'symbol') && s.text.startsWith(name) ? [s.x] : [],
      )[0] ?? NaN
    expect(x('Q1')).toBeGreaterThan(x('R2'))
    expect(x('R2')).toBeGreaterThan(x('R1'))
  })

  test('as a file its words are words', () => {
    const svg = drawingSvg(drawn(slipTank()), 'Slip <tank> & more', () => '#333')
    expect(svg).toContain('<title>Slip &lt;tank&gt; &amp; more</title>')
    for (const word of ['Ranger', 'ECHO', 'L1b', 'D34', 'W1', 'GND']) expect(svg).toContain(`>${word}</text>`)
    expect(svg).not.toMatch(/href|url\(|<script/)
  })
})

test('insulation that is proposed is told apart at every part', () => {
  fc.assert(
    fc.property(fc.array(fc.constantFrom(...PARTS), { maxLength: 4 }), (kinds) => {
      const design = after(blank(), ...kinds.map((k, i) => addPart(`p${i}`, k)))
      expect(runChecks(design, catalog).filter((f) => f.rule === 'look-alike')).toEqual([])
    }),
    { numRuns: 40 },
  )
  const [first = '', second = ''] = wiringOf(slipTank(), catalog)
    .wires.filter((w) => w.from.kind === 'part' && w.from.partId === 'ranger')
    .map((w) => w.key)
  const alike = after(
    slipTank(),
    { kind: 'set-wire', wire: first, set: { insulation: 'red' } },
    { kind: 'set-wire', wire: second, set: { insulation: 'brown' } },
  )
  const [finding] = runChecks(alike, catalog).filter((f) => f.rule === 'look-alike')
  expect(finding?.sentence).toMatch(/red and W\d+ brown at Ranger look alike/)
  const mended = applyAll(alike, finding?.remedies[0]?.edits ?? [], catalog)
  expect(mended && runChecks(mended, catalog).filter((f) => f.rule === 'look-alike')).toEqual([])
  const earth = after(slipTank(), { kind: 'set-wire', wire: first, set: { insulation: 'green-yellow' } })
  expect(runChecks(earth, catalog).find((f) => f.rule === 'look-alike')).toMatchObject({ severity: 'stop' })
})

import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { CALCULATIONS } from '../../src/core/calculations/calculations'
import { writeBack } from '../../src/core/calculations/writeBack'
import type { PartKind } from '../../src/core/catalog/part'
import { calculationsOf } from '../../src/core/checks/calculationsOf'
import { checkContext, feedable } from '../../src/core/checks/context'
import { changesBetween } from '../../src/core/documents/changes'
import { applyEdit } from '../../src/core/edits/apply'
import type { EditBody } from '../../src/core/edits/edit'
import { canonicalJson } from '../../src/core/hash/canonicalJson'
import type { AddedComponent, Design } from '../../src/core/model/design'
import { compile } from '../../src/core/nodefile/compile'
import { planPins } from '../../src/core/pins/planPins'
import { NO_SURROUNDINGS } from '../../src/core/surroundings/surroundings'
import { componentsOf, type End, wiringOf } from '../../src/core/wiring/netlist'
import { after, blank, catalog, slipTank } from '../support/designs'
import { kinds } from '../support/edits'

// What the program makes of every component, part, calculation and edit, written down by itself: this shows that nothing
// changes unnoticed, not that it is right. Whether it is right is judged on paper and by data sheets in the other tests.
// `vitest run tests/core/golden.test.ts -u` writes them anew; read the difference before it goes in.

const BROKER = { host: '192.0.2.7', port: 1883, root: 'vn' }

/** A part alone on a board, fed where it can be and planned. */
function alone(kind: PartKind, board = 'board-32-30'): Design {
  let design = after(blank(board), {
    kind: 'add-part',
    partId: 'it',
    part: kind.id,
    label: 'It',
    signals: kind.channels.map((c, i) => ({ id: `s${i}`, channel: c.id })),
  })
  for (const t of kind.terminals) {
    const context = checkContext(design, catalog)
    const rail = context && t.role === 'supply' ? feedable(context, 'it', t)[0] : undefined
    if (rail) design = after(design, { kind: 'feed', partId: 'it', terminal: t.id, rail: rail.id })
  }
  const plan = planPins(design, catalog)
  return plan.kind === 'planned' ? after(design, { kind: 'accept-plan', pins: plan.pins }) : design
}

/** One of each component, where it makes sense. */
const COMPONENTS: Record<AddedComponent['type'], [kind: string, component: AddedComponent][]> = {
  divider: [
    [
      'ranger-echo',
      { type: 'divider', line: 'it.echo', names: ['R1', 'R2'], topOhm: 1800, bottomOhm: 3300, tolerance: 0.01 },
    ],
  ],
  pull: [
    ['button-ground', { type: 'pull', line: 'it.a', names: ['R1'], level: 'high', ohm: 3300, tolerance: 0.05 }],
    ['button-ground', { type: 'pull', line: 'it.a', names: ['R1'], level: 'low', ohm: 3300, tolerance: 0.05 }],
  ],
  series: [['button-ground', { type: 'series', line: 'it.a', names: ['R1'], ohm: 470, tolerance: 0.05 }]],
  capacitor: [['button-ground', { type: 'capacitor', line: 'it.a', names: ['C1'], farad: 1e-7 }]],
  clamp: [['button-ground', { type: 'clamp', line: 'it.a', names: ['D1'] }]],
  bias: [
    [
      'current-transformer',
      {
        type: 'bias',
        line: 'it.out',
        names: ['R1', 'R2', 'C1'],
        topOhm: 10_000,
        bottomOhm: 10_000,
        farad: 1e-5,
        tolerance: 0.01,
      },
    ],
  ],
  burden: [['current-transformer', { type: 'burden', line: 'it.out', names: ['R1'], ohm: 33, tolerance: 0.01 }]],
  diode: [
    ['fet-stage', { type: 'diode', line: 'it.in', names: ['D1'], ratedA: 3, fast: false }],
    ['sounder', { type: 'diode', line: 'it.in', names: ['D1'], ratedA: 1, fast: true }],
  ],
  driver: (['fet', 'npn'] as const).map((device) => [
    'sounder',
    {
      type: 'driver',
      line: 'it.in',
      names: ['Q1', 'R1', 'R2'],
      device,
      seriesOhm: 470,
      holdOhm: 10_000,
      tolerance: 0.05,
    },
  ]),
  optocoupler: [
    [
      'button-ground',
      { type: 'optocoupler', line: 'it.a', names: ['U1', 'R1', 'D1'], seriesOhm: 1000, tolerance: 0.05 },
    ],
  ],
  shifter: [['button-ground', { type: 'shifter', line: 'it.a', rail: '5V', names: ['U1'] }]],
  fuse: [['supply-12v', { type: 'fuse', rail: 'it.out', names: ['F1'], ratedA: 1, slow: true }]],
  'feed-diode': [['supply-5v', { type: 'feed-diode', rail: 'it.out', names: ['D1'] }]],
  quench: [],
  bulk: [['button-ground', { type: 'bulk', rail: '5V', names: ['C1'], farad: 0.0001 }]],
}

const endWords = (e: End) => `${e.owner} ${e.label}`

describe('golden tables', () => {
  test('wires and shopping names of every component', async () => {
    const text = Object.entries(COMPONENTS).flatMap(([type, cases]) =>
      cases.flatMap(([part, component]) => {
        const kind = catalog.parts[part]
        if (!kind) return [`## ${type}: no ${part}`]
        const design = { ...alone(kind), added: { c1: component } }
        const wires = wiringOf(design, catalog).wires.map(
          (w) =>
            `${endWords(w.from)} → ${endWords(w.to)} · ${w.tag} · ${w.carries}${w.mains ? ' mains' : ''} ${w.lengthM} m${w.note ? ` · ${w.note}` : ''}`,
        )
        const bought = componentsOf(design).map(
          (c) => `${c.id} ${c.name} ${c.what}, ${c.value}, ${c.place} of ${c.line}`,
        )
        return [`## ${type} at ${part}`, ...bought, ...wires, '']
      }),
    )
    await expect(text.join('\n')).toMatchFileSnapshot('../golden/components.txt')
  })

  test('node file of every part on the shelf', async () => {
    const text = Object.values(catalog.parts).flatMap((kind) => {
      if (kind.channels.length === 0) return []
      const made = compile(alone(kind), NO_SURROUNDINGS, catalog, BROKER, 1)
      return [
        `## ${kind.id}`,
        ...(made.ok ? made.compiled.file.signals.map((s) => canonicalJson(s)) : made.reasons),
        '',
      ]
    })
    await expect(text.join('\n')).toMatchFileSnapshot('../golden/drivers.txt')
  })

  test('every calculation a design calls for, and its answers there and on both sides of it', async () => {
    const cells = ['cell-18650', 'cells-2aa'].flatMap((part) => {
      const fed = after(alone(catalog.parts[part] as PartKind), { kind: 'feed-board', rail: 'it.p' })
      return [fed, after(fed, { kind: 'sleep', everyS: 600, listenS: 10 })]
    })
    const designs = [
      ...cells,
      ...Object.values(catalog.parts).map((kind) => alone(kind)),
      ...Object.values(COMPONENTS).flatMap((cases) =>
        cases.map(([part, component]) => ({ ...alone(catalog.parts[part] as PartKind), added: { c1: component } })),
      ),
    ]
    const found = designs.flatMap((d) => {
      const context = checkContext(d, catalog)
      return context ? calculationsOf(context) : []
    })
    const text = Object.entries(CALCULATIONS).flatMap(([id, sum]) => {
      const mine = found.filter((f) => f.id === id)
      const given = mine[0]?.given ?? {}
      const trials = [
        ...mine.slice(1).map((m) => m.given),
        ...Object.entries(given).flatMap(([k, v]) => [0.3, 3].map((by) => ({ ...given, [k]: v * by }))),
      ]
      const asked = new Set(mine.map((m) => canonicalJson([m.subject, m.target, m.given])))
      return [`## ${id}`, ...asked, ...new Set([given, ...trials].map((t) => canonicalJson(sum.solve(t)))), '']
    })
    await expect(text.join('\n')).toMatchFileSnapshot('../golden/calculations.txt')
  })

  test('what a calculation writes into the design', async () => {
    const ids = Object.keys(CALCULATIONS) as (keyof typeof CALCULATIONS)[]
    const text = ids.flatMap((id) =>
      [
        { line: 'button.a' as const, level: 'low' as const },
        { line: 'ranger.echo' as const },
        { rail: '5V' },
        { wires: ['w1'] },
      ].map(
        (target) =>
          `${id} ${canonicalJson(target)} ${canonicalJson(writeBack(slipTank(), { id, given: {}, target }, { value: 330 }))}`,
      ),
    )
    await expect(text.join('\n')).toMatchFileSnapshot('../golden/writeBack.txt')
  })

  test('what edits do and why they are refused', async () => {
    const design = slipTank()
    const text = Object.entries(kinds).flatMap(([kind, edits]) => {
      if (kind === 'revert') return []
      const told = fc.sample(edits, { seed: 20261127, numRuns: 60 }).map((edit) => {
        const result = applyEdit(design, edit, catalog)
        const changes = result.ok ? changesBetween(design, result.design).map((c) => canonicalJson(c)) : []
        return result.ok
          ? `${canonicalJson(edit)}\n   ${changes.filter((c) => c.length < 200).join('\n   ')}`
          : `${canonicalJson(edit)}\n   refused: ${result.reason} | ${result.accepts}`
      })
      return [`## ${kind}`, ...[...new Set(told)].slice(0, 8), '']
    })
    await expect(text.join('\n')).toMatchFileSnapshot('../golden/edits.txt')
  })

  test('what may sit on which bus, behind what, and at which converter', async () => {
    const parts = [
      'mux-i2c-8',
      'adc-i2c-4',
      'potentiometer',
      'microphone-analog',
      'light-i2c',
      'button-ground',
      'thermometer-one-wire',
      'keys-ladder-5',
    ]
    const design = after(
      blank(),
      ...parts.map((part, i): EditBody => ({ kind: 'add-part', partId: `p${i}`, part, label: part, signals: [] })),
      ...['p1', 'p4']
        .map((partId): EditBody => ({ kind: 'feed', partId, terminal: 'vcc', rail: '3V3' }))
        .filter((e) => applyEdit(blank(), e, catalog).ok),
    )
    const ends = ['a', 'b', 'own', 'p0:0', 'p0:8', 'p1:0', 'p1:3', 'p1:4', 'p2:0', 'nothing', 'a:0', 'p0:1:2']
    const text = parts.flatMap((part, i) => [
      `## ${part}`,
      ...ends.map((bus) => {
        const result = applyEdit(design, { kind: 'set-bus', partId: `p${i}`, bus }, catalog)
        const taken =
          result.ok && applyEdit(result.design, { kind: 'set-bus', partId: i === 2 ? 'p7' : 'p2', bus }, catalog)
        return `${bus}: ${result.ok ? 'may' : `${result.reason} | ${result.accepts}`}${taken && !taken.ok ? `, and then ${taken.reason}` : ''}`
      }),
    ])
    await expect(text.join('\n')).toMatchFileSnapshot('../golden/buses.txt')
  })
})

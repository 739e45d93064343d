import { loadMicroPython } from '@micropython/micropython-webassembly-pyscript'
import { describe, expect, test } from 'vitest'
import { runChecks } from '../../src/core/checks/runChecks'
import { applyEdit } from '../../src/core/edits/apply'
import type { Design } from '../../src/core/model/design'
import type { EditBody } from '../../src/core/edits/edit'
import { compile } from '../../src/core/nodefile/compile'
import { applyAll } from '../../src/core/alternatives/remedies'
import { installRuntime } from '../../standins/board/board'
import { blank, catalog } from '../support/designs'
import { type Truth, voltageAtEnd } from '../support/finishedWiring'
import { NO_SURROUNDINGS } from '../../src/core/surroundings/surroundings'

// What the world is → the voltage at the pin, solved from the finished wires → what the runtime makes of it with the
// compiled file.

const printed: string[] = []
const mp = await loadMicroPython({ stdout: (l) => printed.push(l), linebuffer: true })
installRuntime(mp, { deviceDir: 'device', shimDir: 'standins/board/shims' })
mp.registerJsModule('_world', {})
mp.runPython(`
import json
from vn.scale import Scale
def reading(text):
    job = json.loads(text)
    print(json.dumps(Scale(job['spec']).reading(job['volts'])))
`)

function runtimeReads(design: Design, volts: number): number | null {
  const compiled = compile(design, NO_SURROUNDINGS, catalog, { host: 'h', port: 1883, root: 'r' }, 1)
  if (!compiled.ok) throw new Error(compiled.reasons.join('; '))
  const [spec] = compiled.compiled.file.signals
  printed.length = 0
  const job = JSON.stringify(JSON.stringify({ spec, volts }))
  mp.runPython(`reading(${job})`)
  return JSON.parse(printed[0] ?? 'null') as number | null
}

function bench(edits: EditBody[], on: string): Design {
  return edits.reduce((design, edit) => {
    const applied = applyEdit(design, edit, catalog)
    if (!applied.ok) throw new Error(`${edit.kind}: ${applied.reason}`)
    return applied.design
  }, blank(on))
}

/** β formula of the data sheet: 10 kΩ at 25 °C, 3950 K. */
const thermistor = (celsius: number): number => 10_000 * Math.exp(3950 * (1 / (celsius + 273.15) - 1 / 298.15))
/** Soil probe: 3.0 V dry to 0.9 V in water, behind 10 kΩ. */
const soil = (percent: number): Truth => ({ volts: 3 - (2.1 * percent) / 100, ohm: 10_000 })

interface Case {
  kind: string
  channel: string
  back: string
  truths: [number, Truth][]
  tolerance: number
  pull: boolean
}
const CASES: Case[] = [
  {
    kind: 'thermistor',
    channel: 'temperature',
    back: 'b',
    pull: true,
    tolerance: 0.3,
    truths: [-20, 0, 25].map((c) => [c, { ohm: thermistor(c) }]),
  },
  {
    kind: 'soil-analog',
    channel: 'moisture',
    back: 'gnd',
    pull: false,
    tolerance: 1,
    truths: [0, 50, 100].map((p) => [p, soil(p)]),
  },
  {
    kind: 'light-resistor',
    channel: 'brightness',
    back: 'b',
    pull: true,
    tolerance: 1,
    truths: [
      [0, { ohm: 1_000_000 }],
      [50, { ohm: Math.sqrt(300 * 1e6) }],
    ],
  },
  {
    kind: 'level-analog',
    channel: 'level',
    back: 'gnd',
    pull: false,
    tolerance: 0.055,
    truths: [
      [0, { volts: 0.5, ohm: 100 }],
      [2.75, { volts: 2.5, ohm: 100 }],
      [5.5, { volts: 4.5, ohm: 100 }],
    ],
  },
]
const lineOf: Record<string, string> = {
  thermistor: 'a',
  'soil-analog': 'out',
  'light-resistor': 'a',
  'level-analog': 'out',
}

/** Every design the analog remedies lead to, one after the other, up to three deep. */
function remedied(design: Design, depth = 3): { design: Design; path: string }[] {
  const out = [{ design, path: '' }]
  if (depth === 0) return out
  for (const f of runChecks(design, catalog).filter((x) =>
    ['outside-pull-missing', 'adc-span', 'adc-source', 'input-over-maximum', 'long-wire'].includes(x.rule),
  )) {
    for (const remedy of f.remedies) {
      const next = applyAll(design, remedy.edits, catalog)
      if (next) out.push(...remedied(next, depth - 1).map((r) => ({ ...r, path: `${remedy.label} › ${r.path}` })))
    }
  }
  return out
}

describe.each(CASES)('$kind', ({ kind, channel, back, truths, tolerance, pull }) => {
  test.each(Object.keys(catalog.boards))(
    '%s: within a hundredth of the truth after whatever was added, or the checks say it is blind there',
    (on) => {
      const line = lineOf[kind] ?? ''
      const start = bench(
        [
          { kind: 'add-part', partId: 'probe', part: kind, label: 'Probe', signals: [{ id: 'sprobe', channel }] },
          { kind: 'place-part', partId: 'probe', set: { cableM: 3 } },
        ],
        on,
      )
      let judged = 0
      let exact = 0
      const ways = new Set<string>()
      for (const { design, path } of remedied(start)) {
        if (pull && !Object.values(design.added).some((c) => c.type === 'pull')) continue
        const hosted = design.parts.probe?.bus !== null
        const analog = hosted ? catalog.parts['adc-i2c-4']?.converter : catalog.boards[on]?.analog
        if (!analog) throw new Error('no converter')
        const blind = runChecks(design, catalog).some(
          (f) => (f.rule === 'adc-span' || f.rule === 'input-over-maximum') && f.partId === 'probe',
        )
        for (const [truth, world] of truths) {
          const volts = voltageAtEnd(design, 'probe', line, back, world)
          judged += 1
          if (volts < analog.minV - 1e-9 || volts > analog.maxV + 1e-9) {
            expect(
              blind,
              `${path}: ${truth} gives ${volts.toFixed(3)} V, which nothing can measure, and nobody says so`,
            ).toBe(true)
            continue
          }
          const code = Math.round((volts / analog.fullV) * (2 ** analog.bits - 1))
          const seen = runtimeReads(design, (code / (2 ** analog.bits - 1)) * analog.fullV)
          // Ten bits over 3.2 V are steps of 3 mV: near the ends of a sensor that is more than a hundredth, and no
          // fault of the scale.
          const step =
            analog.bits <= 10
              ? Math.abs((runtimeReads(design, volts + 0.0032) ?? 0) - (runtimeReads(design, volts) ?? 0))
              : 0
          expect(seen, `${path}: ${truth} reads ${seen} at ${volts.toFixed(3)} V`).not.toBeNull()
          expect(
            Math.abs((seen ?? Infinity) - truth),
            `${path}: ${truth} reads ${seen} at ${volts.toFixed(3)} V`,
          ).toBeLessThanOrEqual(Math.max(tolerance, step))
          exact += 1
          ways.add(path)
        }
      }
      expect(judged).toBeGreaterThan(0)
      expect(exact).toBeGreaterThan(0)
      // The external converter sees the whole span of everything but a 4.5 V probe.
      if (kind !== 'level-analog' && on === 'board-32-30')
        expect([...ways].some((w) => w.includes('converter'))).toBe(true)
    },
  )
})

test('no divider is ever offered to a resistor that is measured', () => {
  for (const on of Object.keys(catalog.boards)) {
    for (const kind of ['thermistor', 'light-resistor', 'potentiometer', 'loop-end-resistor', 'current-transformer']) {
      const design = bench([{ kind: 'add-part', partId: 'probe', part: kind, label: 'Probe', signals: [] }], on)
      for (const { path } of remedied(design)) expect(path).not.toMatch(/Divide/)
    }
  }
})

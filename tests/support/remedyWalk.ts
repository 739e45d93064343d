import type { Finding, Remedy } from '../../src/core/checks/finding'
import { runChecks } from '../../src/core/checks/runChecks'
import { applyEdit } from '../../src/core/edits/apply'
import { addedOn, type Design } from '../../src/core/model/design'
import type { EditBody } from '../../src/core/edits/edit'
import { compile } from '../../src/core/nodefile/compile'
import type { NodeFileSignal } from '../../src/core/nodefile/nodeFile'
import { applyAll } from '../../src/core/alternatives/remedies'
import { railsOf } from '../../src/core/power/rails'
import { blank, catalog } from './designs'
import { bridges, type Truth, voltageAtEnd } from './finishedWiring'
import { seeded } from './randomDesigns'
import { feed, part, set } from './editBodies'
import { NO_SURROUNDINGS } from '../../src/core/surroundings/surroundings'

// Random nodes, half of them with something foreign or isolated, and what must hold after any remedy: judged by the
// finished wires, not by the rules.

const FOREIGN = [
  'appliance-point',
  'contact-dry',
  'loop-12v',
  'loop-end-resistor',
  'optocoupler-input',
  'motion-12v',
  'light-barrier',
  'gate-drive',
  'mains-230',
  'battery-sensor',
  'panel-12v',
]
const ANALOG = ['thermistor', 'soil-analog', 'light-resistor', 'level-analog', 'potentiometer', 'current-transformer']
const SWITCHING = [
  'relay-module-high',
  'relay-module-low',
  'relay-module-5v-low',
  'relay-bare',
  'fet-stage',
  'optocoupler-output',
  'motor-driver',
]
const LOADS = [
  'pump-12v',
  'fan-12v',
  'lamp-12v',
  'valve-12v',
  'siren-12v',
  'door-strike-12v',
  'contactor-mains',
  'motor-9v',
]
const FEEDING = [
  'supply-12v',
  'supply-5v',
  'converter-12-5',
  'cell-18650',
  'cells-3aa',
  'boost-5v',
  'supply-24v-ac',
  'rectifier-bridge',
  'converter-40-5',
  'bell-transformer',
]

const add = (component: Extract<EditBody, { kind: 'add-component' }>['component']): EditBody => ({
  kind: 'add-component',
  componentId: `th${component.type.replace('-', '')}`,
  component,
})
const ofThese = <T>(random: () => number, list: readonly T[]): T => list[Math.floor(random() * list.length)] as T

/** Small troubles that random parts alone would hardly make. Half of all nodes have one. */
const THEMES: ((random: () => number) => EditBody[])[] = [
  () =>
    ['wa', 'wb'].flatMap((id) => [
      part(id, 'relay-module-high', 'switch'),
      set(id, 'load', 'one way of a motor or blind, up to 24 V'),
    ]),
  (r) => [
    part('key', ofThese(r, ['button-ground', 'contact-reed', 'pressure-mat']), 'press'),
    ...['D34', '46', '18', 'A0', 'VP'].map((pin): EditBody => ({ kind: 'lock', line: 'key.a', pin })),
  ],
  () => [
    part('ca', 'climate-i2c-fixed', 'temperature'),
    part('cb', 'climate-i2c-fixed', 'temperature'),
    part('cc', 'climate-i2c-two', 'temperature'),
    part('cd', 'climate-i2c-two', 'temperature'),
    set('cd', 'address', '0x76'),
  ],
  (r) => [
    part('gate', 'gate-drive'),
    part('gr', 'relay-module-high', 'switch'),
    set('gr', 'load', 'gate or door'),
    feed('gr', 'com', `gate.${ofThese(r, ['b1', 'f1'])}`),
    feed('gr', ofThese(r, ['no', 'nc']), `gate.${ofThese(r, ['b2', 'f2'])}`),
  ],
  (r) => [
    part('acs', 'bell-transformer'),
    part('dcs', 'supply-12v'),
    part('acp', ofThese(r, ['motion-12v', 'fan-12v', 'converter-12-5'])),
    feed('acp', 'p', 'acs.out'),
    feed('acp', 'vin', 'acs.out'),
  ],
  (r) => [
    part('sup', 'supply-12v'),
    part('rock', 'rocker-lit', 'on'),
    feed('rock', 'lamp', ofThese(r, ['sup.out', '5V'])),
  ],
  (r) => [
    part('bat', 'battery-sensor'),
    part('oo', 'optocoupler-output', 'switch'),
    feed('oo', 'plus', ofThese(r, ['bat.s', 'bat.g'])),
    feed('oo', 'minus', ofThese(r, ['bat.s', 'bat.g'])),
  ],
  () => [part('pad', 'keys-matrix-3x4', 'k1'), set('pad', 'diodes', 'no')],
  (r) => [
    part('lp', 'loop-end-resistor', 'loop'),
    add({
      type: 'pull',
      line: 'lp.z',
      names: ['R91'],
      level: 'high',
      ohm: ofThese(r, [1000, 5600, 47_000]),
      tolerance: 0.05,
    }),
  ],
  (r) => [
    part('lc', 'loop-12v', 'open'),
    add({
      type: 'optocoupler',
      line: 'lc.z',
      names: ['U91', 'R91', 'D91'],
      seriesOhm: ofThese(r, [300, 2200, 9100]),
      tolerance: 0.05,
    }),
  ],
  (r) => [
    part('dm', 'supply-12v'),
    part('st', 'fet-stage', 'power'),
    part('pm', 'pump-12v'),
    feed('pm', 'p', 'dm.out'),
    feed('pm', 'n', 'st.d'),
    add({ type: 'diode', line: 'st.g', names: ['D91'], ratedA: ofThese(r, [1, 3]), fast: r() < 0.5 }),
    add({ type: 'fuse', rail: 'dm.out', names: ['F91'], ratedA: ofThese(r, [1, 2.5, 6.3]), slow: r() < 0.5 }),
  ],
  (r) => [
    part('rs', 'supply-12v'),
    part('rl', 'relay-module-high', 'switch'),
    part('vl', ofThese(r, ['valve-12v', 'door-strike-12v', 'siren-12v'])),
    feed('rl', 'com', 'rs.out'),
    feed('vl', 'p', 'rl.no'),
  ],
  (r) => [
    part('ld', 'led-bare', 'light'),
    part('str', 'led-string', 'colour'),
    set('str', 'lamps', ofThese(r, [3, 60, 300])),
  ],
  (r) => [
    part('scr', 'display-i2c', 'text'),
    feed('scr', 'vcc', '5V'),
    { kind: 'place-part', partId: 'scr', set: { cableM: ofThese(r, [0.3, 1.4, 3]) } },
    part('rc', 'receiver-subghz', 'heard'),
    feed('rc', 'vcc', '5V'),
  ],
  (r) => [
    part('mt', 'pressure-mat', 'loaded'),
    { kind: 'place-part', partId: 'mt', set: { cableM: ofThese(r, [1, 6]), outdoor: r() < 0.5 } },
    part('key', 'button-ground', 'press'),
    { kind: 'condition', signalId: 'skey', set: { patterns: ['single', 'double', 'long'], gapMs: 150, longMs: 250 } },
  ],
  (r) => [
    part('ow', 'supply-5v'),
    part('eye', 'motion-module', 'motion'),
    feed('eye', 'vcc', 'ow.out'),
    part('lb', 'light-barrier', 'beam'),
    set('ow', 'gives', ofThese(r, [0.3, 2])),
  ],
  () => [
    part('r5', 'relay-module-5v-low', 'switch'),
    part('rm', 'relay-module-low', 'switch'),
    feed('rm', 'vcc', '5V'),
  ],
  (r) => [
    part('ce', 'cell-18650'),
    { kind: 'feed-board', rail: 'ce.p' },
    part('so', 'soil-analog', 'moisture'),
    { kind: 'sleep', everyS: ofThese(r, [600, 7200]) },
  ],
  (r) => [
    part('wk', ofThese(r, ['button-ground', 'toggle-ground']), 'press'),
    set('wk', 'wakes', 'yes'),
    part('wl', 'button-ground', 'press'),
    set('wl', 'wakes', 'yes'),
    { kind: 'sleep', everyS: 600 },
    { kind: 'choose-board', board: ofThese(r, ['board-8266-16', 'board-32-30']) },
  ],
  (r) => [
    part('cv', 'adc-i2c-4', 'a0'),
    part('la', ofThese(r, ['thermistor', 'light-resistor', 'soil-analog']), 'temperature'),
    {
      kind: 'add-component',
      componentId: 'thpl',
      component: { type: 'pull', line: 'la.a', names: ['R95'], level: 'high', ohm: 10_000, tolerance: 0.01 },
    },
  ],
  (r) => [
    part('cx', ofThese(r, ['cell-18650', 'cells-3aa', 'cell-pouch-500'])),
    part('bx', 'boost-5v'),
    feed('bx', 'vin', 'cx.p'),
    { kind: 'feed-board', rail: 'cx.p' },
  ],
]

/** Seeds this far apart give nodes the same small trouble, or none. */
export const THEME_COUNT = THEMES.length * 2

/** A node of random parts, settings, feeds, cables and joints. Same seed, same node. */
export function anyNode(seed: number): Design {
  const random = seeded(seed * 7919 + 13)
  const one = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)] as T
  const kinds = Object.keys(catalog.parts)
  const wanted = [
    ...(seed % 2 ? [one(FOREIGN)] : []),
    ...Array.from({ length: 1 + Math.floor(random() * 4) }, () =>
      one([one(kinds), one(ANALOG), one(SWITCHING), one(LOADS), one(FEEDING), one(kinds)]),
    ),
  ]
  let design = blank(one(Object.keys(catalog.boards)))
  const attempt = (edit: EditBody) => {
    const applied = applyEdit(design, edit, catalog)
    if (applied.ok) design = applied.design
  }
  wanted.forEach((kind, i) => {
    const channel = catalog.parts[kind]?.channels[0]
    attempt({
      kind: 'add-part',
      partId: `p${i}p`,
      part: kind,
      label: `${kind} ${i}`.slice(0, 60),
      signals: channel ? [{ id: `s${i}s`, channel: channel.id }] : [],
    })
  })
  const board = catalog.boards[design.board.id]
  if (!board) throw new Error('no board')
  for (const [partId, part] of Object.entries(design.parts)) {
    const kind = catalog.parts[part.kind]
    const rails = railsOf(design, board, catalog).map((r) => r.id)
    const others = Object.entries(design.parts).flatMap(([id, p]) =>
      id === partId
        ? []
        : (catalog.parts[p.kind]?.terminals.flatMap((t) => (t.role === 'contact' ? [`${id}.${t.id}`] : [])) ?? []),
    )
    if (random() < 0.5)
      attempt({ kind: 'place-part', partId, set: { cableM: one([0.2, 1.5, 4, 8]), outdoor: random() < 0.3 } })
    for (const s of kind?.settings ?? [])
      if (random() < 0.7)
        attempt({
          kind: 'set-part',
          partId,
          setting: s.id,
          value: 'choices' in s ? one(s.choices).id : s.min + (s.max - s.min) * random() ** 2,
        })
    for (const t of kind?.terminals ?? []) {
      if (t.role === 'supply' && random() < 0.3) attempt({ kind: 'feed', partId, terminal: t.id, rail: one(rails) })
      if (t.role === 'contact' && random() < 0.6)
        attempt({ kind: 'feed', partId, terminal: t.id, rail: one([...rails, ...others]) })
      if (t.role === 'ground' && kind?.load && random() < 0.3)
        attempt({ kind: 'feed', partId, terminal: t.id, rail: one([...rails, ...others]) })
    }
  }
  for (const edit of THEMES[seed % THEME_COUNT]?.(random) ?? []) attempt(edit)
  if (random() < 0.3) attempt({ kind: 'feed-board', rail: one(railsOf(design, board, catalog).map((r) => r.id)) })
  if (random() < 0.2) attempt({ kind: 'sleep', everyS: one([60, 600, 6000]) })
  return design
}

export interface Step {
  finding: Finding
  remedy: Remedy
}

export const stepsOf = (design: Design): Step[] =>
  runChecks(design, catalog).flatMap((finding) => finding.remedies.map((remedy) => ({ finding, remedy })))

/** `rule: label without its numbers and names`. */
export const kindOf = ({ finding, remedy }: Step): string =>
  `${finding.rule}: ${remedy.edits
    .map((e) => (e.kind === 'add-component' ? `add ${e.component.type}` : e.kind))
    .filter((k, i, all) => all.indexOf(k) === i)
    .join(', ')}`

/** Everything wrong with `after`, which `steps` made of `before`. Empty when it is as it must be. */
export function faults(before: Design, steps: readonly Step[], after: Design): string[] {
  const left = runChecks(after, catalog)
  const stopsLeft = left.filter((f) => f.severity === 'stop')
  const out: string[] = []
  for (const b of bridges(after)) {
    const part = b.replace(/^the coupler of /, '').split(' ')[0] ?? ''
    if (!stopsLeft.some((f) => f.partId === part)) out.push(`${b}, and no stop says so`)
  }
  for (const stop of runChecks(before, catalog).filter(
    (f) => f.severity === 'stop' && !f.caution && !left.some((l) => l.key === f.key),
  ))
    out.push(...silenced(stop, steps, after))
  return [...out, ...falseReadings(after, left)]
}

/** A stop that is gone: is what it warned of gone as well? */
function silenced(stop: Finding, steps: readonly Step[], after: Design): string[] {
  const partId = stop.partId ?? ''
  const say = (why: string) => [
    `${stop.key} is silent after “${steps.map((s) => s.remedy.label).join('” and “')}”, and ${why}`,
  ]
  if (['no-common-ground', 'wet-contact', 'isolation-bridged'].includes(stop.rule))
    return bridges(after).some((b) => b.includes(partId)) &&
      !runChecks(after, catalog).some((f) => f.severity === 'stop' && f.partId === partId)
      ? say('it is still bridged')
      : []
  if (stop.rule === 'input-over-maximum')
    return over(after, stop.key.slice('input-over-maximum:'.length)) ? say('its pin still gets too much') : []
  if (stop.rule === 'line-without-pin') {
    const line = stop.key.slice('line-without-pin:'.length)
    return after.plan.pins[line] !== undefined || (after.parts[line.split('.')[0] ?? '']?.bus ?? '').includes(':')
      ? []
      : say('it still has no pin')
  }
  if (stop.rule === 'coil-without-path') {
    const line = stop.key.slice('coil-without-path:'.length)
    return addedOn(after, line, 'diode') || addedOn(after, line, 'optocoupler') || touched(steps).has(partId)
      ? []
      : say('nothing lies across the coil')
  }
  if (
    ['pass-through', 'played-contact', 'load-loose'].includes(stop.rule) ||
    steps.some((s) =>
      s.remedy.edits.some(
        (e) =>
          e.kind === 'accept-plan' ||
          e.kind === 'feed-board' ||
          e.kind === 'sleep' ||
          e.kind === 'keep-free' ||
          e.kind === 'unlock',
      ),
    )
  )
    return []
  const parts = touched(steps)
  const railPart = /:([a-z0-9]+)\./.exec(stop.key)?.[1] ?? ''
  const isRail = stop.rule === 'rail-overload' && parts.size > 0
  return isRail ||
    steps.some((s) => s.finding.key === stop.key || s.finding.signalId === stop.signalId) ||
    parts.has(partId) ||
    parts.has(railPart)
    ? []
    : say('nothing that was done touches it')
}

function touched(steps: readonly Step[]): Set<string> {
  return new Set(
    steps
      .flatMap((s) => s.remedy.edits)
      .flatMap((e): string[] => [
        ...('partId' in e ? [e.partId] : []),
        ...('line' in e ? [e.line.split('.')[0] ?? ''] : []),
        ...(e.kind === 'feed' && e.rail ? [e.rail.split('.')[0] ?? ''] : []),
        ...(e.kind === 'add-component'
          ? [
              'line' in e.component
                ? (e.component.line.split('.')[0] ?? '')
                : 'part' in e.component
                  ? e.component.part
                  : (e.component.rail.split('.')[0] ?? ''),
            ]
          : []),
      ]),
  )
}

/**
 * Does a part still lift its pin above 3.6 V, with resistors as they are and no tolerance? Couplers and shifters keep
 * it away.
 */
export function over(design: Design, line: string): boolean {
  const [partId = '', terminal = ''] = line.split('.')
  const part = design.parts[partId]
  const kind = catalog.parts[part?.kind ?? '']
  const t = kind?.terminals.find((x) => x.id === terminal)
  if (
    !part ||
    t?.role !== 'line' ||
    !t.output ||
    addedOn(design, line, 'optocoupler') ||
    addedOn(design, line, 'shifter') ||
    design.plan.pins[line] === undefined
  )
    return false
  const board = catalog.boards[design.board.id]
  const pulled = part.settings.pull === 'pulled-up-to-its-own-supply-inside' ? 'vcc' : null
  const rail =
    board &&
    railsOf(design, board, catalog).find(
      (r) => r.id === part.feeds[pulled ?? (t.output?.kind === 'push-pull' ? t.output.from : '')],
    )
  const volts =
    t.output.kind === 'fixed'
      ? t.output.highMaxV
      : t.output.kind === 'push-pull' || pulled
        ? (rail?.max ?? 0) * (t.output.kind === 'push-pull' ? t.output.highMaxRatio : 1)
        : 0
  return voltageAtEnd(design, partId, terminal, '', { volts, ohm: t.sourceOhm ?? 1 }) > 3.601
}

// Truths of the analog parts, from their data sheets.
const between = (low: number, high: number, share: number) => low + (high - low) * share
const SENSED: Record<
  string,
  { line: string; back: string; truths: (part: Design['parts'][string]) => [number, Truth][]; tolerance: number }
> = {
  thermistor: {
    line: 'a',
    back: 'b',
    tolerance: 1.4,
    truths: ({ settings: { betaK = 3950, ohm25 = 10_000 } }) =>
      [-20, 0, 25].map((c) => [c, { ohm: Number(ohm25) * Math.exp(Number(betaK) * (1 / (c + 273.15) - 1 / 298.15)) }]),
  },
  'soil-analog': {
    line: 'out',
    back: 'gnd',
    tolerance: 1,
    truths: ({ settings }) =>
      [0, 0.5, 1].map((wet) => [
        wet * 100,
        { volts: settings.wet === 'rises-resistive-probes' ? between(0.9, 3, wet) : between(3, 0.9, wet), ohm: 10_000 },
      ]),
  },
  'light-resistor': {
    line: 'a',
    back: 'b',
    tolerance: 1,
    truths: () => [0, 0.5].map((bright) => [bright * 100, { ohm: 1e6 * (300 / 1e6) ** bright }]),
  },
  'level-analog': {
    line: 'out',
    back: 'gnd',
    tolerance: 0.055,
    truths: () => [0, 0.5, 1].map((full) => [full * 5.5, { volts: between(0.5, 4.5, full), ohm: 100 }]),
  },
}

/** Analog readings that are off by more than a hundredth although the voltage can be measured. */
export function falseReadings(design: Design, findings: readonly Finding[]): string[] {
  const analog = Object.entries(design.parts).filter(([, p]) => p.kind in SENSED)
  if (analog.length === 0) return []
  const board = catalog.boards[design.board.id]
  const out: string[] = []
  for (const [id, part] of analog) {
    const sensed = SENSED[part.kind]
    const kind = catalog.parts[part.kind]
    const signal = Object.entries(design.signals).find(([, s]) => s.partId === id)
    const line = `${id}.${sensed?.line ?? ''}`
    const hosted = part.bus?.includes(':') ?? false
    const range = hosted ? catalog.parts['adc-i2c-4']?.converter : board?.analog
    if (!sensed || !kind || !signal || !range || (design.plan.pins[line] === undefined && !hosted)) continue
    const alone = {
      ...design,
      signals: { [signal[0]]: { ...signal[1], slug: 'it', calibration: null } },
      rules: {},
      guards: {},
    }
    const file = compile(alone, NO_SURROUNDINGS, catalog, { host: 'h', port: 1883, root: 'r' }, 1)
    if (!file.ok) continue
    const [spec] = file.compiled.file.signals
    const blind = findings.some((f) => (f.rule === 'adc-span' || f.rule === 'input-over-maximum') && f.partId === id)
    for (const [truth, world] of sensed.truths(part)) {
      const volts = voltageAtEnd(design, id, sensed.line, sensed.back, world)
      if (volts < range.minV - 1e-9 || volts > range.maxV + 1e-9) {
        if (!blind)
          out.push(`${part.label}: ${truth} gives ${volts.toFixed(3)} V, which nothing can measure, and nobody says so`)
        continue
      }
      const step = Math.abs(scaled(spec, volts + range.fullV / 2 ** range.bits) - scaled(spec, volts))
      if (!(Math.abs(scaled(spec, volts) - truth) <= Math.max(sensed.tolerance, step)))
        out.push(`${part.label}: ${truth} reads ${scaled(spec, volts)} at ${volts.toFixed(3)} V`)
    }
  }
  return out
}

/** The node file's own words about its numbers: a straight line, or a resistor below a resistor. */
function scaled(spec: NodeFileSignal | undefined, volts: number): number {
  if (!spec || (spec.driver !== 'adc' && spec.driver !== 'converter')) return NaN
  const of = (n: {
    pullOhm: number
    supplyV: number
    loadOhm?: number | undefined
    seriesOhm?: number | undefined
  }) => {
    const current = (n.supplyV - volts) / n.pullOhm - volts / (n.loadOhm ?? Infinity)
    return current <= 0 ? 1e12 : volts / current - (n.seriesOhm ?? 0)
  }
  if (spec.ntc) return 1 / (1 / 298.15 + Math.log(of(spec.ntc) / spec.ntc.ohm25) / spec.ntc.betaK) - 273.15
  if (spec.light)
    return (
      (100 *
        Math.log(spec.light.darkOhm / Math.min(spec.light.darkOhm, Math.max(spec.light.brightOhm, of(spec.light))))) /
      Math.log(spec.light.darkOhm / spec.light.brightOhm)
    )
  return (spec.atZero ?? 0) + (spec.perVolt ?? 1) * volts
}

export interface Tally {
  designs: number
  foreign: number
  applied: number
  refused: number
  kinds: Map<string, number>
  /** Seed of the first node that offered a kind. */
  firstSeed: Map<string, number>
  faults: string[]
}

/** Takes every single remedy of these nodes, and `together` seeded pairs and as many triples of each. */
export function walkRemedies(
  seeds: Iterable<number>,
  together: number,
  tally: Tally = { designs: 0, foreign: 0, applied: 0, refused: 0, kinds: new Map(), firstSeed: new Map(), faults: [] },
): Tally {
  for (const seed of seeds) {
    const design = anyNode(seed)
    const steps = stepsOf(design)
    const random = seeded(seed + 1)
    tally.designs += 1
    if (Object.values(design.parts).some((p) => FOREIGN.includes(p.kind))) tally.foreign += 1
    const take = (chosen: readonly Step[]) => {
      let at: Design | null = design
      for (const s of chosen) at = at && applyAll(at, s.remedy.edits, catalog)
      if (!at) return void (tally.refused += 1)
      tally.applied += 1
      for (const s of chosen) {
        tally.kinds.set(kindOf(s), (tally.kinds.get(kindOf(s)) ?? 0) + 1)
        if (!tally.firstSeed.has(kindOf(s))) tally.firstSeed.set(kindOf(s), seed)
      }
      for (const f of faults(design, chosen, at)) if (tally.faults.length < 200) tally.faults.push(`seed ${seed}: ${f}`)
    }
    tally.faults.push(...faults(design, [], design).map((f) => `seed ${seed}, as it is: ${f}`))
    for (const s of steps) take([s])
    if (steps.length < 2) continue
    for (const n of [2, 3])
      for (let i = 0; i < together && steps.length >= n; i++)
        take(
          [...steps]
            .map((s) => ({ s, r: random() }))
            .sort((a, b) => a.r - b.r)
            .slice(0, n)
            .map(({ s }) => s),
        )
  }
  return tally
}

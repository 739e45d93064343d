import { describe, expect, test } from 'vitest'
import type { Finding } from '../../src/core/checks/finding'
import { runChecks } from '../../src/core/checks/runChecks'
import { applyEdit } from '../../src/core/edits/apply'
import type { AddedComponent, Design } from '../../src/core/model/design'
import type { EditBody } from '../../src/core/edits/edit'
import { compile } from '../../src/core/nodefile/compile'
import { judgePin } from '../../src/core/pins/judgePin'
import { planLines } from '../../src/core/lines/lines'
import { planPins } from '../../src/core/pins/planPins'
import { applyAll, freeingEdits } from '../../src/core/alternatives/remedies'
import { railLoads } from '../../src/core/power/railLoads'
import { railsOf } from '../../src/core/power/rails'
import { wiringOf } from '../../src/core/wiring/netlist'
import { blank, catalog } from '../support/designs'
import { feed, part, set } from '../support/editBodies'
import { bridges } from '../support/finishedWiring'
import { walkRemedies } from '../support/remedyWalk'
import { NO_SURROUNDINGS } from '../../src/core/surroundings/surroundings'

// Advice that would hurt, and readings that would be false. Numbers are worked out on paper; what is joined is judged
// by a walk over the finished wires.

const add = (component: AddedComponent, componentId = `x${component.type}`): EditBody => ({
  kind: 'add-component',
  componentId,
  component,
})
const coupler = (line: string): EditBody =>
  add({ type: 'optocoupler', line, names: ['U1', 'R1', 'D1'], seriesOhm: 2200, tolerance: 0.05 })

function bench(edits: EditBody[], on = 'board-32-30'): Design {
  return edits.reduce((design, edit) => {
    const applied = applyEdit(design, edit, catalog)
    if (!applied.ok) throw new Error(`${edit.kind}: ${applied.reason}`)
    return applied.design
  }, blank(on))
}
const found = (design: Design, rule: string): Finding[] => runChecks(design, catalog).filter((f) => f.rule === rule)
const stops = (design: Design): string[] =>
  runChecks(design, catalog)
    .filter((f) => f.severity === 'stop' && !f.caution)
    .map((f) => f.rule)
function mended(design: Design, rule: string, n = 0): Design {
  const after = applyAll(design, found(design, rule)[0]?.remedies[n]?.edits ?? [], catalog)
  if (!after) throw new Error(`${rule} has no remedy ${n}`)
  return after
}
const wires = (design: Design) => wiringOf(design, catalog).wires
const ends = (design: Design) =>
  wires(design).map((w) =>
    [w.from, w.to]
      .map((e) => {
        if (e.kind === 'part') return `${e.partId}.${e.terminal}`
        if (e.kind === 'leg') return e.label
        if (e.kind === 'foreign') return `foreign ${e.label}`
        return e.label
      })
      .join(' – '),
  )
const refusal = (design: Design, edit: EditBody) => {
  const a = applyEdit(design, edit, catalog)
  return a.ok ? null : a.reason
}

describe('isolation', () => {
  const foreign: [string, EditBody[], string][] = [
    ['a point inside an appliance', [part('tap', 'appliance-point')], 'no-common-ground'],
    [
      'a contact with 24 V AC of its own',
      [part('tap', 'contact-dry'), set('tap', 'carries', '24 V AC of its own')],
      'wet-contact',
    ],
    ['a 12 V loop', [part('tap', 'loop-12v')], 'input-over-maximum'],
  ]
  test.each(foreign)(
    '%s: behind the coupler that is offered its minus has left our ground, and nothing joins the two sides',
    (_name, edits, rule) => {
      const before = bench(edits)
      const after = mended(before, rule)
      expect(Object.values(after.added).map((c) => c.type)).toEqual(['optocoupler'])
      expect(bridges(after)).toEqual([])
      expect(stops(after)).toEqual([])
      // One conductor goes from the coupler's cathode to the part's own minus, none from there to the board.
      const minus = ends(after).filter((e) => /tap\.(n|b|c)\b/.test(e))
      expect(minus).toHaveLength(1)
      expect(minus[0]).toMatch(/U1\.2/)
    },
  )

  test('where another line of the part still goes straight to the board the coupler isolates nothing, and that is a stop', () => {
    const kind = structuredClone(catalog.parts['appliance-point'])
    const line = kind?.terminals.find((t) => t.id === 'p')
    if (!kind || line?.role !== 'line') throw new Error('no point')
    const two = { ...kind, id: 'appliance-two', terminals: [...kind.terminals, { ...line, id: 'q', label: 'SECOND' }] }
    const from = { ...catalog, parts: { ...catalog.parts, 'appliance-two': two } }
    const design = [part('tap', 'appliance-two'), coupler('tap.p')].reduce((d, e) => {
      const a = applyEdit(d, e, from)
      if (!a.ok) throw new Error(a.reason)
      return a.design
    }, blank())
    const checks = (d: Design) => runChecks(d, from).filter((f) => f.severity === 'stop' && !f.caution)
    expect(checks(design).map((f) => f.rule)).toEqual(expect.arrayContaining(['isolation-bridged', 'no-common-ground']))
    const both = applyAll(
      design,
      checks(design).find((f) => f.rule === 'isolation-bridged')?.remedies[0]?.edits ?? [],
      from,
    )
    expect(both && checks(both)).toEqual([])
  })

  test('a coupler on a part the board feeds isolates nothing, and says so', () => {
    const design = bench([part('eye', 'motion-module'), coupler('eye.out')])
    expect(found(design, 'isolation-bridged')).toMatchObject([
      { severity: 'fix', sentence: expect.stringMatching(/U1 isolates nothing.*fed from the board/) },
    ])
  })

  test('the coupler as a part of its own gets wires at both poles, never to this board, and a pole led to the board is a stop', () => {
    const design = bench([part('opto', 'optocoupler-input')])
    expect(ends(design)).toEqual(expect.arrayContaining(['opto.plus – foreign +', 'opto.minus – foreign −']))
    expect(bridges(design)).toEqual([])
    const wrong = bench([part('opto', 'optocoupler-input'), feed('opto', 'plus', '5V')])
    expect(found(wrong, 'isolation-bridged')).toMatchObject([
      { severity: 'stop', remedies: [{ label: 'Take IN + off' }] },
    ])
    expect(stops(mended(wrong, 'isolation-bridged'))).toEqual([])
  })

  test('nothing of unproven isolation feeds the board, however long the way, nor is it taken for a supply', () => {
    const design = bench([part('tap', 'appliance-point'), part('up', 'boost-5v')])
    expect(refusal(design, { kind: 'feed-board', rail: 'tap.v' })).toMatch(/not proven to be isolated from the mains/)
    const behind = bench(
      [part('tap', 'appliance-point'), part('conv', 'boost-5v'), feed('conv', 'vin', 'tap.v')].filter(
        (e) => e.kind !== 'feed',
      ),
    )
    expect(behind.parts.conv?.feeds.vin).not.toBe('tap.v')
    expect(refusal(bench([part('mains', 'mains-230')]), { kind: 'feed-board', rail: 'mains.l' })).toMatch(/not proven/)
  })

  test('mains behind a relay stay on their side, are marked, coloured and sized as such, and come last on the bench', () => {
    const design = bench([
      part('mains', 'mains-230'),
      part('relay', 'relay-module-high'),
      part('coil', 'contactor-mains'),
      feed('relay', 'com', 'mains.l'),
      feed('coil', 'a1', 'relay.no'),
    ])
    expect(bridges(design)).toEqual([])
    expect(stops(design).filter((r) => r === 'isolation-bridged' || r === 'contact-rating')).toEqual([])
    const live = wires(design).filter((w) => w.mains)
    expect(live.map((w) => [design.wires[w.key]?.insulation, design.wires[w.key]?.gaugeMm2])).toEqual(
      expect.arrayContaining([
        ['brown', 1.5],
        ['blue', 1.5],
      ]),
    )
    expect(live.every((w) => /licensed/.test(w.note))).toBe(true)
    expect(
      wires(design)
        .filter((w) => !w.mains)
        .every((w) => ![w.from, w.to].some((e) => e.kind === 'part' && e.partId === 'mains')),
    ).toBe(true)
  })
})

describe('currents that depend on settings and on the moment', () => {
  const board =
    catalog.boards['board-32-30'] ??
    (() => {
      throw new Error('no board')
    })()
  const on = (design: Design, rail: string) => railLoads(design, board, catalog).find((r) => r.rail.id === rail)

  test('300 lamps at full white take 300 · 60 mA = 18 A; a supply of 20 A is offered, and six places to feed them', () => {
    const design = bench([
      part('supply', 'supply-5v'),
      part('lamps', 'led-string'),
      set('lamps', 'lamps', 300),
      feed('lamps', 'v', 'supply.out'),
    ])
    expect(on(design, 'supply.out')?.peakA).toBeCloseTo(18, 9)
    const overload = (d: Design) => found(d, 'rail-overload').filter((f) => f.key.endsWith('supply.out'))
    expect(overload(design)).toMatchObject([
      {
        severity: 'stop',
        sentence: expect.stringMatching(/18 A; supply gives 2 A/),
        remedies: [{ label: 'supply of 20 A' }],
      },
    ])
    expect(
      overload(applyAll(design, overload(design)[0]?.remedies[0]?.edits ?? [], catalog) ?? design).filter(
        (f) => f.severity !== 'note',
      ),
    ).toEqual([])
    expect(found(design, 'lamp-string').map((f) => f.sentence)).toEqual([
      expect.stringMatching(/18 A at full white.*at 6 places/),
      expect.stringMatching(/330 Ω at the first lamp/),
    ])
    const series = mended(design, 'lamp-string', 0)
    expect(series).toEqual(design)
    // Eight lamps are 0.48 A, one place.
    expect(found(bench([part('few', 'led-string')]), 'lamp-string')).toHaveLength(1)
  })

  test('a pump of 1.5 A that starts with 6 A: the supply, the fuse and the contact are asked for both', () => {
    const pump = (gives: number, fuse?: AddedComponent) =>
      bench([
        part('supply', 'supply-12v'),
        set('supply', 'gives', gives),
        part('relay', 'relay-module-high'),
        part('pump', 'pump-12v'),
        feed('relay', 'com', 'supply.out'),
        feed('pump', 'p', 'relay.no'),
        ...(fuse ? [add(fuse)] : []),
      ])
    expect(on(pump(3), 'supply.out')).toMatchObject({ peakA: 1.5, startA: 6 })
    expect(found(pump(3), 'rail-overload').find((f) => f.key.endsWith('supply.out'))).toMatchObject({
      severity: 'fix',
      sentence: expect.stringMatching(/starts with 6 A.*supply gives 3 A/),
    })
    expect(found(pump(8.5), 'rail-overload').filter((f) => f.key.endsWith('supply.out'))).toEqual([])
    // A quick fuse of 2 A melts at 6 A, which is three times its rating; a time-lag one waits.
    const fuse = (slow: boolean): AddedComponent => ({
      type: 'fuse',
      rail: 'supply.out',
      names: ['F1'],
      ratedA: 2,
      slow,
    })
    expect(found(pump(8.5, fuse(false)), 'fuse-missing')).toMatchObject([
      { sentence: expect.stringMatching(/quick one of 2 A, and 6 A flow/) },
    ])
    expect(found(pump(8.5, fuse(true)), 'fuse-missing')).toEqual([])
    // Contacts for 10 A stand 30 A for a moment: six pumps run with 9 A and start with 7.5 + 6 A; seven are 10.5 A.
    const many = (n: number) =>
      bench([
        part('supply', 'supply-12v'),
        part('relay', 'relay-module-high'),
        feed('relay', 'com', 'supply.out'),
        ...Array.from({ length: n }, (_, i) => [part(`p${i}`, 'pump-12v'), feed(`p${i}`, 'p', 'relay.no')]).flat(),
      ])
    expect([found(many(6), 'contact-rating'), found(many(7), 'contact-rating')].map((f) => f.length)).toEqual([0, 1])
  })
})

describe('feeding', () => {
  test('the RP2040 board is fed at VSYS behind a diode of its own, never at VBUS, and what hangs on VBUS is then dead', () => {
    const design = bench(
      [part('supply', 'supply-5v'), part('relay', 'relay-module-high'), { kind: 'feed-board', rail: 'supply.out' }],
      'board-rp2040-40',
    )
    const to = wires(design)
      .filter((w) => w.to.kind === 'rail' && w.to.rail === 'VSYS')
      .map((w) => (w.from.kind === 'leg' ? w.from.leg : w.from.label))
    expect(to.sort()).toEqual(['K', 'VSYS'])
    // 4.85 − 0.45 V … 5.25 − 0.2 V behind the diode.
    expect(
      railsOf(
        design,
        catalog.boards['board-rp2040-40'] ??
          (() => {
            throw new Error()
          })(),
        catalog,
      ).find((r) => r.id === 'VSYS'),
    ).toMatchObject({ min: expect.closeTo(4.4, 9), max: expect.closeTo(5.05, 9) })
    const onVbus = bench(
      [
        part('relay', 'relay-module-high'),
        feed('relay', 'vcc', '5V'),
        part('supply', 'supply-5v'),
        { kind: 'feed-board', rail: 'supply.out' },
      ],
      'board-rp2040-40',
    )
    expect(found(onVbus, 'supply-range')).toMatchObject([
      { severity: 'fix', sentence: expect.stringMatching(/alive only while a USB cable is in/) },
    ])
    const without =
      applyAll(design, [{ kind: 'remove-component', componentId: Object.keys(design.added)[0] ?? '' }], catalog) ??
      design
    expect(found(without, 'two-supplies')).toMatchObject([
      { severity: 'fix', remedies: [{ label: 'Schottky diode in the feed' }] },
    ])
  })

  test('a part for 4.75 V behind a board’s diode gets 4.3 V: said, with a supply at VIN as a way out; within 2 % it is a note', () => {
    const design = bench([part('air', 'presence-radar')])
    expect(design.parts.air?.feeds.vcc).toBe('5V')
    expect(found(design, 'supply-range')).toMatchObject([
      {
        severity: 'fix',
        sentence: expect.stringMatching(
          /takes 4\.75 to 5\.25 V; 5 V from USB, behind the board's diode is 4\.3 to 5 V/,
        ),
      },
    ])
    const better = mended(design, 'supply-range')
    expect(better.boardFeed).toBe('feed5.out')
    expect(found(better, 'supply-range')).toEqual([])
    expect(refusal(design, feed('air', 'vcc', '3V3'))).toMatch(/stands 4\.75 to 5\.25 V/)
    // A converter of 4.85 V for a string that takes 4.9 V at least: 1 % short, a note without a remedy; for 5.0 V 3 %,
    // which is to be mended.
    const short = (minV: number) => {
      const from = structuredClone(catalog)
      const t = from.parts['led-string']?.terminals.find((x) => x.id === 'v')
      if (t?.role === 'supply') t.minV = minV
      return runChecks(
        bench([part('conv', 'supply-5v'), part('lamps', 'led-string'), feed('lamps', 'v', 'conv.out')]),
        from,
      ).filter((f) => f.rule === 'supply-range')
    }
    expect([short(4.85), short(4.9)].map((f) => f.map((x) => [x.severity, x.remedies.length]))).toEqual([
      [],
      [['note', 0]],
    ])
    expect(short(5)[0]?.severity).toBe('fix')
  })

  test('the RP2040 gives some 0.3 A at 3.3 V outside: 16 displays of 20 mA are too much for it, 15 are not', () => {
    const strings = (n: number) =>
      bench(
        Array.from({ length: n }, (_, i) => part(`d${i}`, 'display-i2c')).concat(
          Array.from(
            { length: n },
            (_, i) => ({ kind: 'set-bus', partId: `d${i}`, bus: i % 2 ? 'b' : 'a' }) as EditBody,
          ),
        ),
        'board-rp2040-40',
      )
    const logic = (d: Design) => found(d, 'rail-overload').find((f) => f.key.endsWith('3V3'))?.severity
    // 20 mA each: 15 are 300 mA.
    expect([logic(strings(15)), logic(strings(16))]).toEqual(['note', 'stop'])
  })
})

describe('data of parts', () => {
  test('the motor driver’s 100 kΩ lose against a pull-up of 45 kΩ at the start: 3.3 · 100 / 145 = 2.28 V, high from 2.0 V', () => {
    const [line] = planLines(bench([part('drive', 'motor-driver')], 'board-8266-16'), catalog)
    const board = catalog.boards['board-8266-16']
    const verdict = (label: string) => {
      const pin = board?.positions.find((p) => p.kind === 'pin' && p.label === label)
      return board && line && pin?.kind === 'pin' ? judgePin(board, pin, line) : null
    }
    expect(verdict('D5')).toMatchObject({
      fits: false,
      reason: expect.stringMatching(/100 kΩ to the safe side leaves 2\.28 V|leaves/),
    })
    expect(verdict('D1')).toMatchObject({ fits: true })
  })

  test('a clamp’s leak belongs to the pull it hangs on: 10 µA over 67 kΩ stay within 0.8 V, with 2 µA more of a mat they do not', () => {
    const clamp = add({ type: 'clamp', line: 'key.a', names: ['D9'] })
    expect(
      found(bench([part('key', 'button-ground'), { kind: 'lock', line: 'key.a', pin: 'D23' }, clamp]), 'leakage'),
    ).toEqual([])
    const leaky = bench([part('key', 'pressure-mat'), { kind: 'lock', line: 'key.a', pin: 'D23' }, clamp])
    const own = catalog.parts['pressure-mat']?.terminals.find((t) => t.id === 'a')
    expect(own?.role === 'line' && (own.leakA ?? 0)).toBeGreaterThan(0)
    expect(found(leaky, 'leakage').length).toBe(
      ((own?.role === 'line' ? (own.leakA ?? 0) : 0) + 1e-5) * 67_500 > 0.8 ? 1 : 0,
    )
    // The pair of diodes hangs between line, supply and ground.
    expect(
      ends(bench([part('key', 'button-ground'), clamp]))
        .filter((e) => e.includes('D9.'))
        .map((e) => e.replace(/.*(D9\.\w+).*/, '$1'))
        .sort(),
    ).toEqual(['D9.A', 'D9.K', 'D9.mid'])
  })

  test('a flow meter that pulls itself up to 5 V is over the pin’s 3.6 V, and no divider is offered to its weak pull', () => {
    const meter = bench(
      [part('meter', 'flow-meter'), set('meter', 'pull', 'pulled up to its own supply inside')],
      'board-8266-16',
    )
    expect(found(meter, 'input-over-maximum')).toMatchObject([
      { severity: 'stop', sentence: expect.stringMatching(/5\.25 V/) },
    ])
    expect(found(meter, 'input-over-maximum')[0]?.remedies.filter((r) => /Divide/.test(r.label))).toEqual([])
    expect(found(bench([part('meter', 'flow-meter')], 'board-8266-16'), 'input-over-maximum')).toEqual([])
  })

  test('what powers on its own drives no unpowered board: (3.4 − 0.6) V through 25 Ω are 112 mA; 4.7 kΩ leave 0.6 mA', () => {
    const design = bench([part('own', 'supply-5v'), part('eye', 'motion-module'), feed('eye', 'vcc', 'own.out')])
    expect(found(design, 'back-feed')).toMatchObject([
      { severity: 'fix', sentence: expect.stringMatching(/with up to 112 mA/) },
    ])
    expect(found(mended(design, 'back-feed'), 'back-feed')).toEqual([])
    expect(found(bench([part('eye', 'motion-module')]), 'back-feed')).toEqual([])
  })

  test('a current transformer without a middle goes below ground, one without a burden is dangerous; both come into the wire list', () => {
    const clip = (type: string) =>
      bench([part('clip', 'current-transformer', 'current'), set('clip', 'burden', type)], 'board-rp2040-40')
    const inside = clip('inside, 1 V at 30 A')
    expect(found(inside, 'swings-below-ground')).toMatchObject([
      { severity: 'stop', sentence: expect.stringMatching(/below ground/) },
    ])
    const biased = mended(inside, 'swings-below-ground')
    expect(ends(biased).filter((e) => /clip\.b|mid/.test(e)).length).toBeGreaterThanOrEqual(4)
    expect(ends(biased).some((e) => e === 'clip.b – GND')).toBe(false)
    expect(found(biased, 'swings-below-ground')).toEqual([])
    const bare = mended(clip('none inside, 15 mA at 30 A'), 'swings-below-ground')
    const burden = Object.values(bare.added).find((c) => c.type === 'burden')
    // 30 A · √2 / 2000 = 21.2 mA; half of 3.3 V allows 1.64 / 0.0212 = 77 Ω: 75 Ω, and 2000 / 75 = 26.7 A a volt.
    expect(burden).toMatchObject({ ohm: 75 })
    const file = compile(bare, NO_SURROUNDINGS, catalog, { host: 'h', port: 1, root: 'r' }, 1)
    expect(file.ok && file.compiled.file.signals[0]).toMatchObject({
      driver: 'adc',
      of: 'rms',
      perVolt: expect.closeTo(26.6667, 3),
    })
    // The 32-class measures 0.15 to 2.45 V: 1.42 V either way is more than the 1.15 V there are, from 24 A on.
    const narrow = mended(
      bench([part('clip', 'current-transformer'), { kind: 'lock', line: 'clip.out', pin: 'D34' }]),
      'swings-below-ground',
    )
    expect(found(narrow, 'swings-below-ground')).toMatchObject([
      { severity: 'fix', sentence: expect.stringMatching(/above 2[34](\.\d)? A it is clipped/) },
    ])
  })
})

describe('what has no end, and what must not be together', () => {
  const relay = (load: string, id = 'relay') => [part(id, 'relay-module-high', 'switch'), set(id, 'load', load)]
  test('what pumps, heats or moves needs a longest time or a pulse; a lamp does not', () => {
    for (const [load, n] of [
      ['pump', 1],
      ['heater', 1],
      ['valve up to 24 V', 1],
      // A gate is given its pulse along with the load.
      ['gate or door', 0],
      ['lamp up to 24 V', 0],
      ['nothing yet', 0],
    ] as const)
      expect(found(bench(relay(load)), 'no-longest-time'), load).toHaveLength(n)
    const pump = bench(relay('pump'))
    for (const remedy of found(pump, 'no-longest-time')[0]?.remedies ?? [])
      expect(found(applyAll(pump, remedy.edits, catalog) ?? pump, 'no-longest-time')).toEqual([])
    const held = bench([...relay('gate or door'), { kind: 'condition', signalId: 'srelay', set: { pulseS: 0 } }])
    expect(found(held, 'no-longest-time')[0]?.remedies[0]?.label).toBe('A pulse of 1 s')
    // A strike that stands ten seconds at a time, by its own plate.
    const strike = bench([
      part('supply', 'supply-12v'),
      part('relay', 'relay-module-high', 'switch'),
      part('strike', 'door-strike-12v'),
      feed('relay', 'com', 'supply.out'),
      feed('strike', 'p', 'relay.no'),
      { kind: 'condition', signalId: 'srelay', set: { longestOnS: 30 } },
    ])
    expect(found(strike, 'no-longest-time')).toMatchObject([
      { sentence: expect.stringMatching(/30 s; strike stands 10 s/), remedies: [{ label: 'At most 10 s' }] },
    ])
  })

  test('two ways of one motor need a guard, and one for each pair', () => {
    const way = 'one way of a motor or blind, up to 24 V'
    const ways = (n: number) => bench(Array.from({ length: n }, (_, i) => relay(way, `w${i}`)).flat())
    expect(found(ways(1), 'opposing-outputs')).toEqual([])
    const guarded = mended(ways(2), 'opposing-outputs')
    expect(Object.values(guarded.guards)).toEqual([{ kind: 'exclusive', of: ['sw0', 'sw1'] }])
    expect(found(guarded, 'opposing-outputs')).toEqual([])
    expect(found(mended(mended(ways(4), 'opposing-outputs'), 'opposing-outputs'), 'opposing-outputs')).toEqual([])
  })
})

describe('the load side', () => {
  const wired = () =>
    bench([
      part('supply', 'supply-12v'),
      part('relay', 'relay-module-high', 'switch'),
      part('pump', 'pump-12v'),
      feed('relay', 'com', 'supply.out'),
      feed('pump', 'p', 'relay.no'),
      add({ type: 'fuse', rail: 'supply.out', names: ['F1'], ratedA: 2.5, slow: true }),
      add({ type: 'quench', part: 'pump', names: ['D1'], device: 'diode', ratedA: 3 }),
    ])
  test('supply, fuse, contact, load and the way back are in the list of wires, apart from the board’s ground', () => {
    const list = ends(wired())
    expect(list).toEqual(
      expect.arrayContaining([
        'supply.out – F1.a',
        'F1.b – +12V',
        'relay.com – +12V',
        'pump.p – relay.no',
        'pump.n – supply.n',
        'D1.K – pump.p',
        'D1.A – pump.n',
      ]),
    )
    expect(list.filter((e) => /supply\.n|pump\.n/.test(e)).some((e) => e.includes('GND'))).toBe(false)
    for (const w of wires(wired())) expect(wired().wires[w.key]?.number, w.key).toBeGreaterThan(0)
  })

  test('a low-side stage brings its supply’s minus to its own ground: the current comes back there', () => {
    const stage = bench([
      part('supply', 'supply-12v'),
      part('stage', 'fet-stage', 'power'),
      part('pump', 'pump-12v'),
      feed('pump', 'p', 'supply.out'),
      feed('pump', 'n', 'stage.d'),
    ])
    expect(ends(stage)).toEqual(expect.arrayContaining(['pump.n – stage.d', 'supply.n – GND', 'stage.gnd – GND']))
  })

  test('a load said but not wired is offered whole; one joined to nothing asks for its contact', () => {
    const said = bench([part('relay', 'relay-module-high', 'switch'), set('relay', 'load', 'pump')])
    const after = mended(said, 'load-not-wired')
    expect(found(after, 'load-not-wired')).toEqual([])
    expect(ends(after)).toEqual(expect.arrayContaining(['ldrelay.p – relay.no', 'relay.com – +12V']))
    const loose = bench([part('supply', 'supply-12v'), part('relay', 'relay-module-high'), part('pump', 'pump-12v')])
    expect(found(loose, 'load-loose')).toMatchObject([{ severity: 'fix' }])
    expect(found(mended(loose, 'load-loose'), 'load-loose')).toEqual([])
  })

  test('a coil on a contact gets a diode on direct current and never one on alternating', () => {
    const bare = applyAll(wired(), [{ kind: 'remove-component', componentId: 'xquench' }], catalog) ?? wired()
    expect(mended(bare, 'contact-arc').added).toMatchObject({ qupump: { device: 'diode', ratedA: 3 } })
    const ac = bench([
      part('mains', 'mains-230'),
      part('relay', 'relay-module-high'),
      part('coil', 'contactor-mains'),
      feed('relay', 'com', 'mains.l'),
      feed('coil', 'a1', 'relay.no'),
    ])
    expect(Object.values(mended(ac, 'contact-arc').added)).toMatchObject([{ type: 'quench', device: 'rc' }])
    const wrong =
      applyAll(ac, [add({ type: 'quench', part: 'coil', names: ['D1'], device: 'diode', ratedA: 1 })], catalog) ?? ac
    expect(found(wrong, 'contact-arc')).toMatchObject([{ severity: 'stop' }])
  })

  test('a contact across a drive’s button rests open; across what protects, or resting closed across a button, is a stop', () => {
    const across = (terminal: 'no' | 'nc', pair: 'b' | 'f') =>
      bench([
        part('gate', 'gate-drive'),
        part('relay', 'relay-module-high', 'switch'),
        set('relay', 'load', 'gate or door'),
        feed('relay', 'com', `gate.${pair}1`),
        feed('relay', terminal, `gate.${pair}2`),
        { kind: 'condition', signalId: 'srelay', set: { pulseS: 1 } },
      ])
    const said = (d: Design) => found(d, 'pass-through').map((f) => f.severity)
    expect(said(across('no', 'b'))).toEqual(['note'])
    expect(found(across('no', 'b'), 'pass-through')[0]?.sentence).toMatch(
      /rests open: without power of the node the button on the wall works as before/,
    )
    expect([said(across('nc', 'b')), said(across('no', 'f')), said(across('nc', 'f'))]).toEqual([
      ['stop'],
      ['stop'],
      ['stop'],
    ])
    expect(stops(mended(across('no', 'f'), 'pass-through'))).toEqual([])
    const held = applyAll(
      across('no', 'b'),
      [{ kind: 'condition', signalId: 'srelay', set: { pulseS: 0, longestOnS: 5 } }],
      catalog,
    )
    expect(held && found(held, 'pass-through')).toMatchObject([
      { severity: 'fix', remedies: [{ label: 'A pulse of 1 s' }] },
    ])
    // In series with a barrier's safety contact, by the contact that rests closed: as it was before, without power.
    const series = bench([
      part('gate', 'gate-drive'),
      part('beam', 'light-barrier'),
      part('relay', 'relay-module-high'),
      feed('relay', 'com', 'gate.f1'),
      feed('relay', 'nc', 'beam.s1'),
      feed('beam', 's2', 'gate.f2'),
    ])
    expect(found(series, 'pass-through')).toMatchObject([
      { severity: 'note', sentence: expect.stringMatching(/as it was before; the node can only open it/) },
    ])
  })

  test('a coupler that plays a contact: poles, dark current over 1 MΩ against a third of 3 V, what is left closed', () => {
    const played = (plus: string, minus: string) =>
      bench([
        part('radio', 'battery-sensor'),
        part('opto', 'optocoupler-output', 'switch'),
        feed('opto', 'plus', plus),
        feed('opto', 'minus', minus),
      ])
    // 1 µA · 1 MΩ = 1.0 V, just a third of 3 V; 0.4 V closed is below it.
    expect(found(played('radio.s', 'radio.g'), 'played-contact')).toEqual([])
    expect(found(played('radio.g', 'radio.s'), 'played-contact')).toMatchObject([
      { severity: 'stop', remedies: [{ label: 'Turn it round' }] },
    ])
    expect(found(mended(played('radio.g', 'radio.s'), 'played-contact'), 'played-contact')).toEqual([])
    expect(bridges(played('radio.s', 'radio.g'))).toEqual([])
    // It has its own cell: neither a rail nor a contact fed from one belongs there.
    const fed = bench([
      part('radio', 'battery-sensor'),
      part('supply', 'supply-12v'),
      part('relay', 'relay-module-high'),
      feed('relay', 'com', 'supply.out'),
      feed('relay', 'no', 'radio.s'),
    ])
    expect(found(fed, 'second-feed')).toMatchObject([
      { severity: 'stop', sentence: expect.stringMatching(/supply of its own and gets supply \+12V as well/) },
    ])
    expect(found(mended(fed, 'second-feed'), 'second-feed')).toEqual([])
    expect(found(bench([part('radio', 'battery-sensor'), feed('radio', 's', '3V3')]), 'second-feed')).toHaveLength(1)
  })

  test('alternating current is taken where a part takes it, rectified where it does not', () => {
    const gate = bench([
      part('gate', 'gate-drive'),
      part('rect', 'rectifier-bridge'),
      feed('rect', 'ac', 'gate.acc'),
      part('conv', 'converter-40-5'),
      feed('conv', 'vin', 'rect.out'),
      { kind: 'feed-board', rail: 'conv.out' },
      part('beam', 'light-barrier'),
      feed('beam', 'p', 'gate.acc'),
    ])
    expect(found(gate, 'ac-for-dc')).toEqual([])
    expect(bridges(gate)).toEqual([])
    expect(refusal(gate, feed('conv', 'vin', 'gate.acc'))).toBeNull()
    expect(
      found(
        bench([part('ac', 'supply-24v-ac'), part('conv', 'converter-40-5'), feed('conv', 'vin', 'ac.out')]),
        'ac-for-dc',
      ),
    ).toMatchObject([{ severity: 'stop' }])
  })
})

describe('sleepers, pins that ask, pulses', () => {
  const asleep = (everyS: number, board: string, ...edits: EditBody[]) =>
    bench([...edits, { kind: 'sleep', everyS }], board)
  test('the 8266-class counts 71 minutes, and nothing wakes the RP2040 by time', () => {
    expect([4260, 4261].map((s) => found(asleep(s, 'board-8266-16'), 'sleep-unfit').length)).toEqual([0, 1])
    expect(found(asleep(600, 'board-rp2040-40'), 'sleep-unfit')).toMatchObject([
      { severity: 'stop', remedies: [{ label: 'Do not sleep' }] },
    ])
    expect(found(asleep(600, 'board-c3-16'), 'sleep-unfit')).toEqual([])
  })
  test('a module that goes on taking 3 mA empties 1 000 mAh in 1 Ah / 3.15 mA = 13 days; what warms up for a minute is no sleeper’s', () => {
    const design = asleep(600, 'board-c3-16', part('eye', 'motion-module', 'motion'))
    const idle =
      catalog.parts['motion-module']?.terminals.flatMap((t) => (t.role === 'supply' ? [t.idleA] : []))[0] ?? 0
    expect(found(design, 'awake-consumers').length).toBe(idle > 0.0005 ? 1 : 0)
    expect(found(design, 'warm-up-too-long')).toMatchObject([
      { severity: 'fix', sentence: expect.stringMatching(/needs 60 s after power/) },
    ])
    expect(found(asleep(600, 'board-c3-16', part('soil', 'soil-analog')), 'awake-consumers')).toMatchObject([
      { sentence: expect.stringMatching(/soil alone 5 mA.*after 8 days/) },
    ])
    expect(
      found(asleep(600, 'board-c3-16', part('climate', 'climate-i2c-fixed')), 'awake-consumers').length,
    ).toBeLessThanOrEqual(1)
  })
  test('pins that some boards keep are asked about, and kept free at a click', () => {
    const design = bench([part('key', 'button-ground'), { kind: 'lock', line: 'key.a', pin: '36' }], 'board-s3-44')
    expect(found(design, 'pin-asks')).toMatchObject([
      { severity: 'note', sentence: expect.stringMatching(/eight-line memory/) },
    ])
    const free = mended(design, 'pin-asks')
    expect(Object.keys(free.keptFree).sort()).toEqual(['35', '36', '37'])
    expect(found(free, 'pin-asks')).toEqual([])
  })
  test('pin 2 of the C3-class is held by nothing: a bare contact needs 10 kΩ there, and is refused without', () => {
    const board = catalog.boards['board-c3-16']
    const pin = board?.positions.find((p) => p.kind === 'pin' && p.label === '2')
    const judge = (design: Design) => {
      const [l] = planLines(design, catalog)
      return board && l && pin?.kind === 'pin' ? judgePin(board, pin, l) : null
    }
    const reed = [part('reed', 'thermometer-one-wire')]
    expect(judge(bench([part('rx', 'receiver-subghz')], 'board-c3-16'))).toMatchObject({
      fits: false,
      reason: expect.stringMatching(/nothing holds it there: a resistor of 10 kΩ|pulls it low/),
    })
    expect(judge(bench(reed, 'board-c3-16'))).toMatchObject({ fits: true })
  })
  test('20 kHz on a chip that pulses by program at 1 kHz', () => {
    expect(found(bench([part('drive', 'motor-driver')], 'board-8266-16'), 'pwm-too-fast')).toHaveLength(2)
    expect(found(bench([part('drive', 'motor-driver')], 'board-c3-16'), 'pwm-too-fast')).toEqual([])
  })
  test('a tamper contact in its own loop is told', () => {
    expect(
      found(bench([part('loop', 'loop-12v'), set('loop', 'tamper', 'in series with the contact')]), 'tamper-in-loop'),
    ).toHaveLength(1)
    expect(found(bench([part('loop', 'loop-12v')]), 'tamper-in-loop')).toEqual([])
  })
})

describe('the planner', () => {
  const many = (kinds: Record<string, number>, board: string): Design => {
    const parts = Object.entries(kinds).flatMap(([kind, n]) => Array.from({ length: n }, () => kind))
    return {
      ...blank(board),
      parts: Object.fromEntries(
        parts.map((kind, i) => [
          `p${i}x`,
          {
            order: i,
            kind,
            label: `${kind} ${i}`,
            settings: {},
            feeds: {},
            bus: null,
            cableM: 0.3,
            outdoor: false,
            found: null,
            rom: null,
          },
        ]),
      ),
    }
  }
  test('nine lamps and seven servos need 5 + 4 slices of 8, and that ends it at once; eight and eight fit', () => {
    const plan = planPins(many({ 'led-pwm': 9, servo: 7 }, 'board-rp2040-40'), catalog)
    expect(plan).toMatchObject({
      kind: 'impossible',
      explored: 0,
      conflicts: [{ words: expect.stringMatching(/need 9 slices.*this chip has 8/) }],
    })
    expect(planPins(many({ 'led-pwm': 8, servo: 8 }, 'board-rp2040-40'), catalog).kind).toBe('planned')
  })
  test('one shortage is told once, with all who want of it; the converter takes the rest', () => {
    const soil = many({ 'soil-analog': 5 }, 'board-8266-16')
    const plan = planPins(soil, catalog)
    expect(plan.kind === 'impossible' && plan.conflicts.map((c) => c.words)).toEqual([
      '2 lines need a pin, and only A0 could serve any of them, and 5 in all ask for the same.',
    ])
    const ways = freeingEdits(soil, catalog, () => 'newa')
    const converter = ways.find((w) => /converter on the bus/.test(w.label))
    expect(converter).toMatchObject({ leaves: 0 })
    const after = applyAll(soil, converter?.edits ?? [], catalog)
    expect(after && planPins(after, catalog).kind).toBe('planned')
  })
  test('ways out are the same before and after part of a plan was accepted', () => {
    const soil = many({ 'soil-analog': 3, 'button-ground': 2 }, 'board-8266-16')
    const settled = applyAll(soil, [{ kind: 'rename-part', partId: 'p0x', label: 'First' }], catalog) ?? soil
    expect(Object.keys(settled.plan.pins).length).toBeGreaterThan(1)
    const labels = (d: Design) =>
      freeingEdits(d, catalog, () => 'newa').map((w) => `${w.label.replace('soil-analog 0', 'First')} ${w.leaves}`)
    expect(labels(settled)).toEqual(labels(soil))
  })
  test('a lock that cannot be says what the pin has against it', () => {
    const design = { ...many({ 'ranger-echo': 1 }, 'board-32-30'), locks: { 'p0x.trig': 'D34' } }
    const plan = planPins(design, catalog)
    expect(plan.kind === 'impossible' && plan.conflicts[0]?.words).toMatch(/is locked to D34, and D34 only reads/)
  })
  test('equal fixed addresses are not answered with one bus, but with a multiplexer', () => {
    const twins = many({ 'climate-i2c-fixed': 2 }, 'board-c3-16')
    const design = {
      ...twins,
      parts: Object.fromEntries(Object.entries(twins.parts).map(([id, p], i) => [id, { ...p, bus: i ? 'b' : null }])),
    }
    const labels = freeingEdits(design, catalog, () => 'newa').map((w) => w.label)
    expect(labels).not.toContain('Put all on one I²C bus')
    expect(labels.some((l) => /behind a multiplexer/.test(l))).toBe(true)
  })
  test('600 lines get an answer', () => {
    const plan = planPins(many({ 'button-ground': 600 }, 'board-rp2040-40'), catalog)
    expect(plan).toMatchObject({
      kind: 'impossible',
      conflicts: [{ words: '600 lines need a pin, and this board has 26.' }],
    })
  })
})

test('after any remedy of any node no isolation is bridged in silence, no stop is silenced, and analog readings are true', () => {
  const tally = walkRemedies(
    Array.from({ length: 90 }, (_, i) => i * 11 + 4),
    3,
  )
  expect(tally.faults).toEqual([])
  expect(tally.foreign).toBeGreaterThan(30)
  expect(tally.applied).toBeGreaterThan(600)
})

test('what a design calls its own is no reproach: look-alike insulation only where a person chose it', () => {
  const pad = bench([part('pad', 'keys-matrix-5x5')])
  expect(found(pad, 'look-alike')).toEqual([])
  const wire = wires(pad).filter((w) => w.from.kind === 'part' && w.from.partId === 'pad')
  const [a, b] = wire
  const chosen = applyAll(
    pad,
    [{ kind: 'set-wire', wire: b?.key ?? '', set: { insulation: pad.wires[a?.key ?? '']?.insulation ?? '' } }],
    catalog,
  )
  expect(chosen && found(chosen, 'look-alike').length).toBe(1)
})

test('a barometer may be off by 1 200 Pa, a probe set the wrong way has a negative gain, and nonsense is refused', () => {
  const design = bench([part('air', 'pressure-i2c', 'pressure'), part('soil', 'soil-analog', 'moisture')])
  const calibrate = (signalId: string, gain: number, offset: number): EditBody => ({
    kind: 'calibrate',
    signalId,
    calibration: {
      recordId: '3f1f2a44-5d3a-4f44-9a53-6a2f9d1c0b7e',
      gain,
      offset,
      date: '2026-11-24',
      points: 2,
      curve: null,
      span: null,
      expires: null,
    },
  })
  expect(refusal(design, calibrate('sair', 1, 1200))).toBeNull()
  expect(refusal(design, calibrate('ssoil', -1, 100))).toBeNull()
  expect(refusal(design, calibrate('ssoil', 1, 5000))).toMatch(/more than W1 can be off by/)
  expect(refusal(design, calibrate('ssoil', 0, 0))).toMatch(/gain/)
})

import fs from 'node:fs'
import path from 'node:path'
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { CHEMISTRIES } from '../../src/core/catalog/part'
import { runChecks } from '../../src/core/checks/runChecks'
import { CELLS, meanVoltage, shareLeft, voltageAt } from '../../src/core/energy/chemistries'
import { type Cycle, cycleOf, INDOORS } from '../../src/core/energy/cycle'
import { drawLife } from '../../src/core/energy/draws'
import { intervalFor, levers, likelyLifeH } from '../../src/core/energy/levers'
import { inService } from '../../src/core/energy/inService'
import { lifeH, likelyOf, meanA, swings, threePoint } from '../../src/core/energy/life'
import { ownOrBought } from '../../src/core/energy/ownOrBought'
import { readSupply } from '../../src/core/energy/readSupply'
import { decemberHours, panelFor } from '../../src/core/energy/solar'
import { triangular } from '../../src/core/energy/spread'
import { energy } from '../../src/cli/energy'
import type { EditBody } from '../../src/core/edits/edit'
import type { Design } from '../../src/core/model/design'
import { compile } from '../../src/core/nodefile/compile'
import { NO_SURROUNDINGS } from '../../src/core/surroundings/surroundings'
import { readDesign } from '../../src/core/model/readDesign'
import { after, blank, catalog } from '../support/designs'
import { feed, part, set } from '../support/editBodies'
import { seeded } from '../support/randomDesigns'

const measure = (input: string, value: number): EditBody => ({
  kind: 'set-measured',
  input,
  measured: { value, date: '2026-11-20', by: 'KY' },
})
const onCell = (board: string, cell: string, everyS: number, ...more: EditBody[]): Design =>
  after(
    blank(board),
    part('cell', cell),
    { kind: 'feed-board', rail: 'cell.p' },
    { kind: 'sleep', everyS, listenS: 0.5 },
    ...more,
  )
const cycle = (d: Design, conditions = INDOORS): Cycle => {
  const board = catalog.boards[d.board.id]
  const c = board && cycleOf(d, board, catalog, conditions)
  if (!c) throw new Error('no cell')
  return c
}
const likely = (d: Design) => {
  const c = cycle(d)
  const x = likelyOf(c)
  return { meanMa: meanA(c, x) * 1000, hours: lifeH(c, x), usableAh: c.usableAh(x), selfMa: c.selfA(x) * 1000 }
}

describe('lives worked out on paper', () => {
  /** Every input set to a stated number, so that the paper has the same givens: mA, s, mAh. */
  interface Paper {
    asleep: number
    cpu: number
    start: number
    radio: number
    air: number
    listen: number
    back: number
    capacity: number
  }
  const given = (p: Paper): EditBody[] => [
    measure('asleepA', p.asleep / 1000),
    measure('partsRestA', 0),
    measure('interpreterS', p.start),
    measure('filesS', 0),
    measure('cpuA', p.cpu / 1000),
    measure('joinS', p.air),
    measure('loginS', 0),
    measure('radioA', p.radio / 1000),
    measure('listenA', p.listen / 1000),
    measure('backS', p.back),
    measure('capacityAh', p.capacity / 1000),
  ]
  // Two lives of a kind every builder reckons once: 1 000 mAh, 0.02 mA asleep, ten minutes.
  test('0.35 s at 60 mA every ten minutes is 0.055 mA; three seconds of Wi-Fi at 110 mA are 0.57 mA', () => {
    const short = after(
      onCell(
        'board-c3-16',
        'cell-pouch-1000',
        600,
        ...given({ asleep: 0.02, cpu: 60, start: 0.35, radio: 0, air: 0, listen: 0, back: 0, capacity: 1000 }),
      ),
    )
    expect(likely(short).meanMa).toBeCloseTo(0.02 * (599.15 / 600) + (60 * 0.35) / 600, 5)
    const wifi = onCell(
      'board-c3-16',
      'cell-pouch-1000',
      600,
      ...given({ asleep: 0.02, cpu: 0, start: 0, radio: 110, air: 3, listen: 0, back: 0, capacity: 1000 }),
    )
    expect(likely(wifi).meanMa).toBeCloseTo(0.57, 2)
    // 850 mAh usable at 0.055 mA and 2 % a month: about 14 months.
    const months = 850 / (0.055 + (0.02 * 1000) / 730.5) / 730.5
    expect(months).toBeCloseTo(14.1, 1)
  })

  const PAPER: [string, string, string, number, Paper][] = [
    [
      'a',
      'board-c3-16',
      'cell-18650',
      600,
      { asleep: 0.15, cpu: 25, start: 0.5, radio: 85, air: 3, listen: 50, back: 0.1, capacity: 3000 },
    ],
    [
      'b',
      'board-c3-16',
      'cell-pouch-500',
      60,
      { asleep: 0.1, cpu: 20, start: 0.4, radio: 90, air: 0.8, listen: 60, back: 0.2, capacity: 480 },
    ],
    [
      'c',
      'board-8266-16',
      'cell-18650',
      3600,
      { asleep: 0.2, cpu: 30, start: 1, radio: 75, air: 5, listen: 45, back: 0.3, capacity: 2900 },
    ],
    [
      'd',
      'board-32-30',
      'cells-4aa-nickel',
      1800,
      { asleep: 5, cpu: 45, start: 0.7, radio: 150, air: 2, listen: 80, back: 0.1, capacity: 1900 },
    ],
    [
      'e',
      'board-c6-32',
      'cell-pouch-2000',
      900,
      { asleep: 0.05, cpu: 28, start: 0.5, radio: 80, air: 1, listen: 30, back: 0.1, capacity: 2000 },
    ],
    [
      'f',
      'board-s3-44',
      'cells-4aa-nickel',
      7200,
      { asleep: 1, cpu: 45, start: 0.6, radio: 95, air: 4, listen: 60, back: 0.2, capacity: 2000 },
    ],
    [
      'g',
      'board-c3-16',
      'cells-3aa',
      1200,
      { asleep: 0.08, cpu: 25, start: 0.5, radio: 85, air: 0.9, listen: 40, back: 0.1, capacity: 2500 },
    ],
    [
      'h',
      'board-8266-16',
      'cell-pouch-1000',
      300,
      { asleep: 0.15, cpu: 30, start: 0.8, radio: 75, air: 2.5, listen: 75, back: 0.2, capacity: 950 },
    ],
  ]
  // With no burst, the board stops at its brown-out voltage: points of the curves and own discharge, typed from tables.
  const STOP: Record<string, { cellV: number; series: number; left: number; selfPerMonth: number }> = {
    'cell-18650': { cellV: 3.68, series: 1, left: 0.1, selfPerMonth: 0.025 },
    'cell-pouch-500': { cellV: 3.74, series: 1, left: 0.2, selfPerMonth: 0.025 },
    'cell-pouch-1000': { cellV: 3.77, series: 1, left: 0.3, selfPerMonth: 0.025 },
    'cell-pouch-2000': { cellV: 3.68, series: 1, left: 0.1, selfPerMonth: 0.025 },
    'cells-3aa': { cellV: 1.14, series: 3, left: 0.2, selfPerMonth: 0.0025 },
    'cells-4aa-nickel': { cellV: 1.17, series: 4, left: 0.1, selfPerMonth: 0.02 },
  }
  test.each(PAPER)('%s: %s on %s every %i s', (_, board, cell, T, p) => {
    const stop = STOP[cell]
    if (!stop) throw new Error('no stop')
    const d = onCell(
      board,
      cell,
      T,
      ...given(p),
      measure('peakA', 0),
      measure('diodeV', 0),
      measure('brownoutV', stop.cellV * stop.series),
    )
    const awake = p.start + p.air + 0.5 + p.back
    const mAs = p.asleep * (T - awake) + p.cpu * p.start + p.radio * p.air + p.listen * 0.5 + p.radio * p.back
    const selfMa = (stop.selfPerMonth * p.capacity) / 730.5
    const got = likely(d)
    expect(Math.abs(got.meanMa / (mAs / T) - 1)).toBeLessThan(0.01)
    const hours = (p.capacity * (1 - stop.left)) / (mAs / T + selfMa)
    expect(Math.abs(got.hours / hours - 1)).toBeLessThan(0.01)
  })

  test('usable charge is read off the curve at the voltage where a burst stops the board', () => {
    const d = onCell(
      'board-c3-16',
      'cell-18650',
      600,
      measure('brownoutV', 2.8),
      measure('peakA', 0.3),
      measure('innerOhm', 0.1),
      measure('capacityAh', 3),
      measure('diodeV', 0.3),
    )
    // 2.8 + 0.35 · 0.3/0.5 + (no diode on this board: measured 0.3) + 0.03 = 3.34 V → between 5 % (3.45 V) and 0 (3.0 V).
    const left = (0.05 * (3.34 - 3)) / 0.45
    expect(likely(d).usableAh).toBeCloseTo(3 * (1 - left), 4)
  })

  test('behind a boost the cell gives the power, not the current', () => {
    const boosted = after(
      blank('board-c3-16'),
      part('cell', 'cell-pouch-1000'),
      part('up', 'boost-5v'),
      feed('up', 'vin', 'cell.p'),
      { kind: 'feed-board', rail: 'up.out' },
      { kind: 'sleep', everyS: 600, listenS: 0.5 },
      measure('efficiency', 0.8),
      measure('asleepA', 0.001),
      measure('partsRestA', 0),
    )
    const c = cycle(boosted)
    const asleep = c.phases.find((p) => p.id === 'asleep')
    expect((asleep?.a(likelyOf(c)) ?? 0) * 1000).toBeCloseTo(
      0.03 + (1 * 5) / (0.8 * meanVoltage(CELLS['lithium-ion'].curve)),
      6,
    )
  })

  test('only what the cell feeds counts, and a lamp is not lit by measuring', () => {
    const bare = likely(onCell('board-c3-16', 'cell-18650', 600)).meanMa
    const beside = onCell(
      'board-c3-16',
      'cell-18650',
      600,
      part('sup', 'supply-12v'),
      part('mot', 'motion-12v', 'motion'),
      feed('mot', 'p', 'sup.out'),
    )
    // The sensor hangs on a supply of its own: 15 mA that the cell never sees; only its warm-up keeps the board awake.
    const waits = cycle(beside).phases.find((p) => p.id === 'measure')
    expect(waits?.a(likelyOf(cycle(beside))) ?? 1).toBeLessThan(0.06)
    expect(cycle(beside).inputs.find((i) => i.id === 'partsRestA')?.value.likely).toBe(0)
    const lit = onCell('board-c3-16', 'cell-18650', 600, part('scr', 'display-i2c', 'text'))
    expect(cycle(lit).inputs.find((i) => i.id === 'measureA')?.value.likely).toBe(0)
    // What it takes at rest it takes all the time.
    const supply = catalog.parts['display-i2c']?.terminals.find((t) => t.role === 'supply')
    const restMa = supply?.role === 'supply' ? supply.idleA * 1000 : NaN
    expect(restMa).toBeGreaterThan(0)
    expect(likely(lit).meanMa - bare).toBeCloseTo(restMa, 6)
  })

  test('near its end a cell behind a boost gives most: the same power at its lowest voltage', () => {
    const boosted = (peak: number) =>
      likely(
        after(
          blank('board-c3-16'),
          part('cell', 'cell-pouch-1000'),
          part('up', 'boost-5v'),
          feed('up', 'vin', 'cell.p'),
          { kind: 'feed-board', rail: 'up.out' },
          { kind: 'sleep', everyS: 600, listenS: 0.5 },
          measure('efficiency', 0.8),
          measure('peakA', peak),
          measure('innerOhm', 0.5),
          measure('capacityAh', 1),
        ),
      ).usableAh
    // 2.5 V at its input + 0.5 Ω · 0.4 A · 5 V / (0.8 · 2.5 V) = 3.0 V: all of the curve; at 0.8 A 3.5 V, above its last 5 %.
    expect(boosted(0.4)).toBeCloseTo(1, 6)
    expect(boosted(0.8)).toBeCloseTo(1 - (0.05 + (0.05 * (3.5 - 3.45)) / (3.68 - 3.45)), 6)
  })

  test('cells side by side share the current and add their charge', () => {
    const one = likely(onCell('board-c3-16', 'cell-pouch-1000', 600))
    const two = likely(onCell('board-c3-16', 'cell-pouch-1000', 600, set('cell', 'parallel', 2)))
    expect(two.usableAh / one.usableAh).toBeGreaterThan(2)
    // Each loses its own share by itself: two last less than twice as long.
    expect(two.hours / one.hours).toBeGreaterThan(1.8)
    expect(two.hours / one.hours).toBeLessThan(2)
  })
})

const random = (seed: number): Design => {
  const r = seeded(seed)
  const of = <T>(list: readonly T[]): T => list[Math.floor(r() * list.length)] as T
  return onCell(
    of(['board-c3-16', 'board-8266-16', 'board-c6-32', 'board-32-30']),
    of(['cell-18650', 'cell-pouch-500', 'cell-pouch-1000', 'cell-pouch-2000', 'cells-3aa']),
    of([30, 60, 300, 600, 3600, 86_400]),
    ...(r() < 0.6 ? [part('cli', 'climate-i2c-two', 'temperature')] : []),
    ...(r() < 0.4 ? [part('soil', 'soil-analog', 'moisture')] : []),
    ...(r() < 0.3 ? [part('ow', 'thermometer-one-wire', 'temperature')] : []),
    ...(r() < 0.3 ? [set('cell', 'parallel', 2)] : []),
    ...(r() < 0.3 ? [measure('asleepA', 0.00008)] : []),
  )
}

describe('ranges', () => {
  test('three points bracket the draws on 200 nodes; the same seed draws the same', () => {
    for (let seed = 0; seed < 200; seed++) {
      const c = cycle(random(seed))
      const three = threePoint(c)
      const drawn = drawLife(c, 400)
      expect(three.low, `seed ${seed}`).toBeLessThanOrEqual(drawn.p10)
      expect(drawn.p10).toBeLessThanOrEqual(drawn.p50)
      expect(drawn.p50).toBeLessThanOrEqual(drawn.p90)
      expect(drawn.p90, `seed ${seed}`).toBeLessThanOrEqual(three.high)
      expect(three.low).toBeLessThanOrEqual(three.likely)
      expect(three.likely).toBeLessThanOrEqual(three.high)
    }
    const c = cycle(random(3))
    expect(drawLife(c, 500)).toEqual(drawLife(c, 500))
  })

  test('a triangular draw has its own mean and its ends', () => {
    const s = { low: 1, likely: 2, high: 6 }
    const n = 20_000
    const mean = Array.from({ length: n }, (_, i) => triangular(s, (i + 0.5) / n)).reduce((a, b) => a + b, 0) / n
    expect(mean).toBeCloseTo(3, 3)
    expect([triangular(s, 0), triangular(s, 1)]).toEqual([1, 6])
  })

  test('a measured input narrows the range and no longer takes part in it', () => {
    const d = onCell('board-c3-16', 'cell-18650', 600)
    const before = threePoint(cycle(d))
    const told = cycle(after(d, measure('joinS', 3.2)))
    const now = threePoint(told)
    expect(now.high - now.low).toBeLessThan(before.high - before.low)
    expect(swings(told).find((s) => s.id === 'joinS')?.share).toBe(0)
    expect(swings(cycle(d))[0]?.id).toBe('joinS')
    expect(after(d, measure('joinS', 3.2), { kind: 'set-measured', input: 'joinS', measured: null }).measured).toEqual(
      {},
    )
  })
})

describe('what has to be so', () => {
  const seeds = fc.integer({ min: 0, max: 5000 })
  test('waking less often, a larger cell, less asleep, warmer, a shorter way to the air: never a shorter life', () => {
    fc.assert(
      fc.property(seeds, fc.constantFrom(2, 3, 7), (seed, by) => {
        const d = random(seed)
        const at = (x: Design, tempC = 20) => likelyLifeH(x, catalog, { ...INDOORS, tempC }) ?? NaN
        const now = at(d)
        const everyS = Math.min(604_800, (d.sleep?.everyS ?? 0) * by)
        expect(at(after(d, { kind: 'sleep', everyS, listenS: 0.5 }))).toBeGreaterThanOrEqual(now - 1e-9)
        expect(at(after(d, set('cell', 'parallel', 4)))).toBeGreaterThanOrEqual(now)
        expect(at(after(d, measure('asleepA', 0)))).toBeGreaterThanOrEqual(now)
        expect(at(after(d, measure('joinS', 0.1)))).toBeGreaterThanOrEqual(now - 1e-9)
        expect(at(d, -5)).toBeLessThanOrEqual(now)
        expect(likelyLifeH(d, catalog, { ...INDOORS, link: 'peer' }) ?? 0).toBeGreaterThanOrEqual(now)
      }),
      { numRuns: 60 },
    )
  })

  test('the interval asked for lasts long enough, and the one a second shorter does not', () => {
    const d = onCell('board-c3-16', 'cell-18650', 600, part('cli', 'climate-i2c-two', 'temperature'))
    for (const hours of [2000, 4000, 8766]) {
      const everyS = intervalFor(d, catalog, hours)
      if (everyS === null) throw new Error('none')
      const at = (s: number) => likelyLifeH({ ...d, sleep: { everyS: s, listenS: 0.5 } }, catalog) ?? 0
      expect(at(everyS)).toBeGreaterThanOrEqual(hours)
      expect(at(everyS - 1)).toBeLessThan(hours)
    }
    expect(intervalFor(d, catalog, 1e6)).toBeNull()
  })

  test('a lever that is applied gives the life it promised, sorted by what it gains', () => {
    const d = onCell('board-c3-16', 'cell-pouch-1000', 600, part('cli', 'climate-i2c-two', 'temperature'))
    let n = 0
    const list = levers(d, catalog, () => `n${n++}n`)
    expect(list.map((l) => l.gainH)).toEqual([...list.map((l) => l.gainH)].sort((a, b) => b - a))
    expect(list.find((l) => l.id === 'peer')?.edits).toBeNull()
    for (const l of list) if (l.edits) expect(likelyLifeH(after(d, ...l.edits), catalog)).toBeCloseTo(l.lifeH, 9)
    expect(list.find((l) => l.id === 'interval')?.gainH).toBeGreaterThan(0)
    expect(list.find((l) => l.id === 'cold')?.gainH).toBeLessThan(0)
  })

  test('curves fall, and share and voltage are each other’s inverse; what is cold or old is never more', () => {
    for (const chemistry of CHEMISTRIES) {
      const { curve, cold, selfPerMonth } = CELLS[chemistry]
      for (let share = 0; share < 1; share += 0.01)
        expect(shareLeft(curve, voltageAt(curve, share)), `${chemistry} ${share}`).toBeCloseTo(share, 9)
      for (const s of [cold, selfPerMonth])
        expect([s.low, s.likely, s.high]).toEqual([s.low, s.likely, s.high].sort((a, b) => a - b))
      expect(cold.high).toBeLessThanOrEqual(1)
    }
    expect(Object.values(catalog.parts).filter((k) => k.cell).length).toBeGreaterThanOrEqual(10)
  })
})

test('recomputed from the printed phases, life is the same within a thousandth', () => {
  const file = path.join(process.cwd(), 'demo/designs/damp-cupboard.json')
  const read = readDesign(fs.readFileSync(file, 'utf8'), catalog)
  if (!read.ok) throw new Error('not read')
  const printed = JSON.parse(JSON.stringify(energy({ design: read.value, catalog }).json)) as {
    periodS: number
    phases: { s: { likely: number }; a: { likely: number }; mAh: number }[]
    selfA: number
    usableAh: number
    lifeH: { likely: number }
  }
  const mAh = printed.phases.reduce((sum, p) => sum + p.mAh, 0)
  const bySeconds = printed.phases.reduce((sum, p) => sum + p.s.likely * p.a.likely, 0) / 3.6
  expect(mAh).toBeCloseTo(bySeconds, 9)
  const life = printed.usableAh / ((mAh * 3.6) / printed.periodS + printed.selfA)
  expect(Math.abs(life / printed.lifeH.likely - 1)).toBeLessThan(0.001)
})

test('December: hours by latitude, a panel by hand, three bad days', () => {
  expect(decemberHours(40)).toEqual({ low: 2, likely: 2.25, high: 2.5 })
  expect(decemberHours(52.5).likely).toBeCloseTo((0.8 + 0.45) / 2, 9)
  const { panelW, bridgeAh } = panelFor(0.001, 3.7, 50)
  // 1 mA all day at 3.7 V is 88.8 mWh; at 0.8 h and 60 % that is 185 mW.
  expect(panelW.likely).toBeCloseTo(0.0888 / (0.8 * 0.6), 9)
  expect(bridgeAh).toBeCloseTo(0.072, 9)
})

test('made or bought: whole packs for all places, cells for a year, and where it turns', () => {
  const d = onCell('board-c3-16', 'cells-3aa', 600, part('cli', 'climate-i2c-two', 'temperature'))
  const { sides } = ownOrBought(d, catalog, { lifeH: 8766 / 2, hub: 50, hourPrice: 10, hoursEach: 1 })
  const price = (id: string) => (catalog.boards[id] ?? catalog.parts[id] ?? { cost: { each: NaN, pack: 1 } }).cost
  const own = (n: number) =>
    ['board-c3-16', 'cells-3aa', 'climate-i2c-two'].reduce(
      (s, id) => s + Math.ceil(n / price(id).pack) * price(id).pack * price(id).each,
      0,
    ) +
    n * (2 * price('cells-3aa').each + 10)
  expect(sides.map((s) => s.own)).toEqual([1, 6, 12].map((n) => expect.closeTo(own(n), 9)))
  expect(sides[1]?.bought).toBeCloseTo(6 * (catalog.parts['climate-i2c-two']?.readyMade ?? 0) + 50, 9)
})

test('a cell outside is told what the cold takes; one the board cannot empty says how much stays; a coin is stopped', () => {
  const found = (d: Design, rule: string) => runChecks(d, catalog).find((f) => f.rule === rule)
  const inside = onCell('board-c3-16', 'cell-18650', 600)
  expect(found(inside, 'cell-cold')).toBeUndefined()
  const outside = after(inside, { kind: 'place-part', partId: 'cell', set: { outdoor: true } })
  expect(found(outside, 'cell-cold')?.sentence).toMatch(/15 %.*below 0 °C/)
  expect(found(inside, 'cell-left-unused')).toBeUndefined()
  // 2 × 1.5 V are under what a 3.3 V board needs for most of their life.
  expect(found(onCell('board-c3-16', 'cells-2aa-lithium', 600), 'cell-left-unused')?.sentence).toMatch(
    /\d\d % of its charge/,
  )
  expect(found(onCell('board-c3-16', 'cell-coin-2032', 600), 'rail-overload')?.severity).toBe('stop')
})

describe('in service', () => {
  const d = onCell('board-c3-16', 'cell-18650', 600, part('cli', 'climate-i2c-two', 'temperature'))
  /** Voltages of a cell that drains `ma`, by the curve walked backwards, with noise and a season. */
  const history = (ma: number, seed: number, days: number, season = 0, noiseV = 0.002) => {
    const r = seeded(seed)
    return Array.from({ length: days }, (_, day) => {
      const share = 0.95 - (ma * 24 * day) / 3000
      const tempC = 20 - season * Math.sin((Math.PI * day) / days)
      const volts =
        voltageAt(CELLS['lithium-ion'].curve, share) + noiseV * (r() + r() + r() - 1.5) + 0.0008 * (tempC - 20)
      return { atS: day * 86_400, volts, tempC }
    })
  }
  test('finds the drain of a hidden cell within its stated range, nineteen times of twenty', () => {
    let within = 0
    for (let seed = 0; seed < 100; seed++) {
      const hidden = 0.4 + seeded(seed + 900)() * 1.6
      const found = inService(history(hidden, seed, 30), cycle(d))
      if (found && Math.abs(found.drainA * 1000 - hidden) <= found.errorA * 1000) within++
    }
    expect(within).toBeGreaterThanOrEqual(93)
  })
  test('a season is taken out where temperatures are known; the date is a range around the true one', () => {
    const points = history(0.5, 4, 120, 18)
    const known = inService(points, cycle(d))
    const blind = inService(
      points.map(({ atS, volts }) => ({ atS, volts })),
      cycle(d),
    )
    if (!known?.emptyS || !blind) throw new Error('nothing')
    expect(Math.abs(known.drainA * 1000 - 0.5)).toBeLessThan(0.05)
    expect(known.emptyS.from).toBeLessThan(known.emptyS.to)
    expect(known.left).toBeCloseTo(0.95 - (0.5 * 24 * 119) / 3000, 1)
  })
  test('a charge in between begins anew: the drain is that since then', () => {
    const day = 86_400
    const once = history(1.2, 7, 40)
    const last = once.at(-1)?.atS ?? 0
    const again = history(1.2, 8, 40).map((p) => ({ ...p, atS: p.atS + last + day }))
    const found = inService([...once, ...again], cycle(d))
    expect(found?.chargedS).toBe(again[0]?.atS)
    expect(Math.abs((found?.drainA ?? 0) * 1000 - 1.2)).toBeLessThanOrEqual((found?.errorA ?? 0) * 1000)
    expect(inService(once, cycle(d))?.chargedS).toBeNull()
  })
  test('far more than designed names why; as designed nothing; too little is too little', () => {
    const designed = inService(history(0.9, 1, 30), cycle(d))?.designedA ?? NaN
    expect(inService(history(designed * 1000, 2, 40), cycle(d))?.whys).toEqual([])
    expect(inService(history(designed * 3000, 3, 20), cycle(d))?.whys[0]).toMatch(/join/)
    expect(inService(history(40, 5, 3, 0, 0), cycle(d))).toBeNull()
    expect(inService(history(0.5, 1, 4), cycle(d))).toBeNull()
    expect(inService([], cycle(d))).toBeNull()
  })
  test('a table is read by the names of its columns; what is no number is told by its line', () => {
    const { points, unread } = readSupply(
      'Time,Volts,Temperature\n2026-06-01T00:00:00Z,4.05,21\n60,"3,9",\nnever,3.8,20\n',
    )
    expect(points).toEqual([
      { atS: Date.UTC(2026, 5, 1) / 1000, volts: 4.05, tempC: 21 },
      { atS: 60, volts: 3.9, tempC: undefined },
    ])
    expect(unread).toEqual([4])
    expect(readSupply('a,b\n1,2').unread).toEqual([2])
  })
})

describe('a rail that is off while the node sleeps', () => {
  const light = (...more: EditBody[]) =>
    onCell('board-c3-16', 'cell-18650', 600, part('soil', 'soil-analog', 'moisture'), ...more)
  const switched = light(
    part('sw', 'rail-switch'),
    { kind: 'feed', partId: 'sw', terminal: 'vin', rail: '3V3' },
    { kind: 'feed', partId: 'soil', terminal: 'vcc', rail: 'sw.out' },
  )
  test('its parts take nothing asleep: against paper', () => {
    // The probe takes 5 mA at rest, the switch 1 µA: all that is left asleep beside the board’s own current.
    const [always, off] = [cycle(light()), cycle(switched)]
    const at = (c: Cycle, phase: string) => c.phases.find((p) => p.id === phase)?.a(likelyOf(c)) ?? NaN
    expect(at(always, 'asleep') - at(off, 'asleep')).toBeCloseTo(0.005 - 0.000001, 6)
    for (const phase of ['join', 'listen', 'back'])
      expect(at(off, phase) - at(always, phase), phase).toBeCloseTo(0.000001, 7)
    // 600 s a cycle: what is saved a day is 5 mA over the time asleep.
    const asleepS = off.phases.find((p) => p.id === 'asleep')?.s(likelyOf(off)) ?? NaN
    expect((meanA(always, likelyOf(always)) - meanA(off, likelyOf(off))) * 600).toBeCloseTo(
      (0.005 - 0.000001) * asleepS -
        0.000001 * (600 - asleepS - (off.phases.find((p) => p.id === 'start')?.s(likelyOf(off)) ?? 0)),
      2,
    )
  })
  test('is among the levers and comes by its edits; the board is told which pin feeds it', () => {
    let n = 0
    const lever = levers(light(), catalog, () => `id${n++}`).find((l) => l.id === 'rail')
    expect(lever?.gainH).toBeGreaterThan(0)
    const made = after(light(), ...(lever?.edits ?? []))
    expect(cycle(made).phases[0]?.a(likelyOf(cycle(made)))).toBeLessThan(0.001)
    const compiled = compile(made, NO_SURROUNDINGS, catalog, { host: '192.0.2.1', port: 1883, root: 'vn' }, 1)
    expect(compiled.ok ? compiled.compiled.file.rails : compiled.reasons).toEqual([
      { pin: expect.any(Number), settleMs: 10 },
    ])
  })
  test('a part on it is not held up through its pin by one that is always fed', () => {
    const bus = (fed: string) =>
      onCell(
        'board-c3-16',
        'cell-18650',
        600,
        part('ca', 'climate-i2c-two', 'temperature'),
        part('li', 'light-i2c', 'light'),
        part('sw', 'rail-switch'),
        { kind: 'feed', partId: 'sw', terminal: 'vin', rail: '3V3' },
        { kind: 'feed', partId: 'ca', terminal: 'vcc', rail: 'sw.out' },
        { kind: 'feed', partId: 'li', terminal: 'vcc', rail: fed },
      )
    const found = (d: Design) => runChecks(d, catalog).filter((f) => f.rule === 'fed-while-off')
    const [one] = found(bus('3V3'))
    expect(one?.sentence).toMatch(/is off while the node sleeps, and the pull-ups of .* hold its SD?A?.* up/)
    expect(found(after(bus('3V3'), ...(one?.remedies[0]?.edits ?? [])))).toEqual([])
    expect(found(bus('sw.out'))).toEqual([])
  })
})

test('a cell is read through two resistors that drain it for ever, or that the node opens asleep', () => {
  const tapped = (kind: string) =>
    onCell('board-c3-16', 'cell-18650', 600, part('tap', kind, 'supply'), {
      kind: 'feed',
      partId: 'tap',
      terminal: 'vin',
      rail: 'cell.p',
    })
  const rest = (d: Design) => cycle(d).inputs.find((i) => i.id === 'partsRestA')?.value.likely ?? NaN
  // 4.2 V over 200 kΩ are 21 µA; behind the transistor one is left.
  expect(rest(tapped('supply-tap')) * 1e6).toBeCloseTo(20, 6)
  expect(rest(tapped('supply-tap-switched')) * 1e6).toBeCloseTo(1, 6)
  const files = ['supply-tap', 'supply-tap-switched'].map((k) => {
    const made = compile(tapped(k), NO_SURROUNDINGS, catalog, { host: '192.0.2.1', port: 1883, root: 'vn' }, 1)
    if (!made.ok) throw new Error(made.reasons.join())
    return made.compiled.file
  })
  expect(files.map((f) => [f.supply, f.rails?.[0]?.settleMs])).toEqual([
    ['supply', undefined],
    ['supply', 60],
  ])
})

test('a charging board is set for the cell behind it, passes it on as it is, and never charges what bursts', () => {
  const charged = (cell: string, ...more: EditBody[]) =>
    after(
      blank('board-c3-16'),
      part('cell', cell),
      part('ch', 'charging-board'),
      { kind: 'feed', partId: 'ch', terminal: 'b', rail: 'cell.p' },
      { kind: 'feed-board', rail: 'ch.out' },
      { kind: 'sleep', everyS: 600, listenS: 0.5 },
      ...more,
    )
  const found = (d: Design) => runChecks(d, catalog).find((f) => f.rule === 'charge-rate')
  // Half of 3 Ah is 1.5 A, of 0.5 Ah 0.25 A; the board gives 1 A.
  expect(found(charged('cell-18650'))).toBeUndefined()
  expect(found(charged('cell-pouch-500'))?.sentence).toMatch(/1 A: .* of 0.5 Ah takes 0.25 A/)
  const set = after(charged('cell-pouch-500'), ...(found(charged('cell-pouch-500'))?.remedies[0]?.edits ?? []))
  expect(set.parts.ch?.settings.rate).toBe(0.25)
  expect(found(set)).toBeUndefined()
  expect(found(charged('cells-2aa-lithium'))?.sentence).toMatch(/not to be charged at all/)
  // No converter between: the cell’s voltage reaches the board, and the board’s 8 µA are counted.
  const c = cycle(charged('cell-18650'))
  expect(c.cell.converter).toBeNull()
  expect(c.inputs.find((i) => i.id === 'partsRestA')?.value.likely).toBeCloseTo(8e-6, 9)
})

import fs from 'node:fs'
import path from 'node:path'
import { randomUUID } from 'node:crypto'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import type { EditBody } from '../../src/core/edits/edit'
import { compile } from '../../src/core/nodefile/compile'
import { type NodeFile, nodeFileSchema } from '../../src/core/nodefile/nodeFile'
import { applyAll } from '../../src/core/alternatives/remedies'
import { readDesign } from '../../src/core/model/readDesign'
import { insertRevision } from '../../src/server/db/revisionRows'
import type { Product } from '../../src/server/product'
import { isProgress, SimulatedBoard } from '../../standins/board/board'
import { blank, catalog } from '../support/designs'
import { listen, login, PASSWORDS, SLIP_TANK, startProduct, until } from '../support/product'
import { NO_SURROUNDINGS } from '../../src/core/surroundings/surroundings'

// One node with a part of every kind the runtime drives, made by edits, compiled, and run against the real broker.
const part = (partId: string, kind: string, channel: string): EditBody => ({
  kind: 'add-part',
  partId,
  part: kind,
  label: partId,
  signals: [{ id: `s${partId}`, channel, slug: partId }],
})
const EDITS: EditBody[] = [
  part('door', 'contact-reed', 'open'),
  part('motion', 'motion-12v', 'motion'),
  part('wet', 'loop-12v', 'open'),
  {
    kind: 'add-component',
    componentId: 'op',
    component: { type: 'optocoupler', line: 'wet.z', names: ['U1', 'R1', 'D1'], seriesOhm: 2200, tolerance: 0.05 },
  },
  { kind: 'lock', line: 'wet.z', pin: 'D25' },
  part('probe', 'level-analog', 'level'),
  {
    kind: 'add-component',
    componentId: 'dv',
    component: {
      type: 'divider',
      line: 'probe.out',
      names: ['R2', 'R3'],
      topOhm: 10_000,
      bottomOhm: 10_000,
      tolerance: 0.01,
    },
  },
  part('lamp', 'led-pwm', 'light'),
  part('hooter', 'relay-module-5v-low', 'switch'),
  {
    kind: 'add-component',
    componentId: 'qq',
    component: {
      type: 'driver',
      line: 'hooter.in',
      names: ['Q1', 'R4', 'R5'],
      device: 'npn',
      seriesOhm: 4700,
      holdOhm: 10_000,
      tolerance: 0.05,
    },
  },
  {
    kind: 'add-part',
    partId: 'pad',
    part: 'keys-matrix-3x4',
    label: 'Pad',
    signals: [
      { id: 'sk6', channel: 'k6', slug: 'six' },
      { id: 'sk7', channel: 'k7', slug: 'seven' },
    ],
  },
  { kind: 'condition', signalId: 'sprobe', set: { averageS: 0 } },
  {
    kind: 'make-state',
    signalId: 'sfill',
    of: 'sprobe',
    slug: 'fill',
    levels: {
      words: ['low', 'enough', 'full'],
      cuts: [1, 4],
      band: 0.2,
      holdS: [0, 0, 0.5],
      unknown: null,
      on: 1,
    },
  },
  {
    kind: 'set-rule',
    ruleId: 'r1',
    rule: { from: 'sfill', when: { is: 'full' }, forS: 0, to: 'shooter', do: true, works: 'always' },
  },
]
const BASE = 'vn/slip-tank'
let product: Product
let board: SimulatedBoard
let timer: NodeJS.Timeout
let outside: Awaited<ReturnType<typeof listen>>
let file: NodeFile

beforeAll(async () => {
  product = await startProduct()
  outside = await listen(product)
  const design = applyAll({ ...blank('board-32-30'), id: SLIP_TANK, slug: 'slip-tank' }, EDITS, catalog)
  if (!design) throw new Error('the design cannot be made')
  const result = compile(design, NO_SURROUNDINGS, catalog, product.link.address, 9)
  if (!result.ok) throw new Error(result.reasons.join('; '))
  file = nodeFileSchema.parse({
    ...result.compiled.file,
    signals: result.compiled.file.signals.map((s) => {
      if (s.driver === 'pwm') return { ...s, longestOnS: 2 }
      if (s.slug === 'motion' && s.driver === 'contact') return { ...s, holdS: 1.5, warmUpS: 1 }
      return s
    }),
  })
  await insertRevision(product.db, design, NO_SURROUNDINGS, result.compiled)
  await product.link.accessChanged(SLIP_TANK)
  const flashDir = path.join(product.options.dataFolder, 'standins', SLIP_TANK)
  fs.writeFileSync(path.join(flashDir, 'node.json'), JSON.stringify(file))
  board = await SimulatedBoard.start({
    flashDir,
    deviceDir: 'device',
    shimDir: 'standins/board/shims',
    random: Math.random,
    log: (l) => {
      if (!isProgress(l)) console.log(l)
    },
  })
  board.comings.alone = false
  timer = setInterval(() => board.step(), 10)
  await outside.until((h) => h.topic === `${BASE}/status`)
})
afterAll(async () => {
  clearInterval(timer)
  board?.stop()
  await outside?.end()
  await product?.stop()
})

const next = async (slug: string, act: () => void, withinMs = 5000) => {
  const from = outside.heard.length
  act()
  return (await outside.until((h) => h.topic === `${BASE}/${slug}`, withinMs, from)).text
}
async function command(slug: string, value: unknown): Promise<{ result: string; reason?: string }> {
  const controller = await login(product, 'controller', PASSWORDS.controllerPassword)
  const from = outside.heard.length
  await controller.publishAsync(`${BASE}/${slug}/set`, JSON.stringify({ value, id: randomUUID() }), { qos: 1 })
  const done = JSON.parse((await outside.until((h) => h.topic === `${BASE}/${slug}/done`, 5000, from)).text) as {
    result: string
    reason?: string
  }
  await controller.endAsync()
  return done
}
const of = (slug: string) => file.signals.find((s) => s.slug === slug)

describe('what stands in the run counts in the file', () => {
  test('a coupler and a transistor turn the level round, a divider stretches the scale, a matrix finds row and column', () => {
    // Voltage on the loop means open; behind the coupler that is a low pin.
    expect(of('wet')).toMatchObject({ driver: 'contact', activeLow: true, pull: 'up' })
    // The module is active low; behind its transistor a high pin switches it on.
    expect(of('hooter')).not.toHaveProperty('activeLow')
    // 0 to 5.5 m over 0.5 to 4.5 V is 1.375 m/V; two resistors of 10 kΩ and the probe’s own 100 Ω leave 10 of 20.1
    // parts.
    expect(of('probe')).toMatchObject({
      driver: 'adc',
      perVolt: expect.closeTo(1.375 * 2.01, 8),
      atZero: -0.6875,
      fullV: 3.1,
    })
    const pins = (n: string) => file.signals.flatMap((s) => (s.driver === 'key' && s.slug === n ? [s.pins] : []))[0]
    // Keys 5 to 8 are on the second row of four: six in the second column, seven in the third.
    expect(pins('six')?.row).toBe(pins('seven')?.row)
    expect(pins('six')?.column).not.toBe(pins('seven')?.column)
  })
})

describe('the runtime', () => {
  test('says a contact in the words of its kind, debounced, and holds motion for its time', async () => {
    const says = async (slug: string, closed: boolean, text: string) => {
      board.comings.set(slug, closed)
      await until(() => outside.heard.filter((h) => h.topic === `${BASE}/${slug}`).at(-1)?.text === text, 6000)
    }
    await says('door', true, 'false')
    await says('door', false, 'true')
    await says('door', true, 'false')
    await says('motion', true, 'false')
    await says('motion', false, 'true')
    const began = Date.now()
    await says('motion', true, 'false')
    expect(Date.now() - began).toBeGreaterThan(1300)
  })

  test('measures a voltage through its divider, and says unknown outside its range', async () => {
    // 2.5 V at the probe is the middle, 2.75 m; 10 of 20.1 parts of it are at the pin.
    board.comings.setVolts('probe', 2.5 / 2.01)
    await until(
      () =>
        Math.abs(Number(outside.heard.filter((h) => h.topic === `${BASE}/probe`).at(-1)?.text ?? NaN) - 2.75) < 0.02,
      6000,
    )
    expect(await next('probe', () => board.comings.setVolts('probe', 0.02))).toBe('null')
  })

  test('dims from 0 to 100, refuses what is no number, and goes off after its longest time', async () => {
    expect(await command('lamp', 40)).toMatchObject({ result: 'done' })
    // Ten bits of duty on this chip.
    expect(Math.abs(board.shareOf('lamp') - 0.4)).toBeLessThan(1 / 1024)
    expect(await command('lamp', true)).toMatchObject({ result: 'refused', reason: 'takes a number from 0 to 100' })
    expect(await command('lamp', 101)).toMatchObject({ result: 'refused' })
    await until(() => board.shareOf('lamp') === 0, 4000)
    await outside.until((h) => h.topic === `${BASE}/fault` && h.text.includes('longest on-time'), 4000)
    await outside.until((h) => h.topic === `${BASE}/lamp` && h.text === '0', 4000)
  })

  test('an inverted relay rests off and switches on with a high pin', async () => {
    expect(board.relayOn()).toBe(false)
    expect(await command('hooter', true)).toMatchObject({ result: 'done' })
    await until(() => board.relayOn(), 2000)
  })

  test('reads the key that is held and no other of its row or column', async () => {
    const from = outside.heard.length
    board.comings.press('six', 0.2)
    await outside.until((h) => h.topic === `${BASE}/six`, 4000, from)
    await new Promise((r) => setTimeout(r, 400))
    expect(
      outside.heard
        .slice(from)
        .filter((h) => /\/(six|seven)$/.test(h.topic))
        .map((h) => h.topic),
    ).toEqual([`${BASE}/six`])
  })

  test('makes words of a reading, and a rule of its own waits for one', async () => {
    await command('hooter', false)
    // The divider leaves 10 of 20.1 parts; 0.5 to 4.5 V are 0 to 5.5 m.
    const stands = (m: number) => board.comings.setVolts('probe', (0.5 + m / 1.375) / 2.01)
    expect(await next('fill', () => stands(2.75))).toBe('"enough"')
    expect(await next('fill', () => stands(0.5))).toBe('"low"')
    expect(board.relayOn()).toBe(false)
    expect(await next('fill', () => stands(4.5))).toBe('"full"')
    await until(() => board.relayOn(), 2000)
    await command('hooter', false)
    // Full again after unknown is where it begins, not a change that a rule acts on.
    expect(await next('fill', () => board.comings.setVolts('probe', 0.02))).toBe('null')
    expect(await next('fill', () => stands(4.5))).toBe('"full"')
    // Its rules are looked at in the same step; this answer comes out of a later one.
    await command('lamp', 0)
    expect(board.relayOn()).toBe(false)
  })

  test('no step takes longer than 30 ms of the board’s own time', () => {
    expect(board.longestModelledMs).toBeLessThan(30)
  })
})

test('every node of the demo compiles for its board', () => {
  const results = fs.readdirSync('demo/designs').map((name) => {
    const read = readDesign(fs.readFileSync(`demo/designs/${name}`, 'utf8'), catalog)
    if (!read.ok) throw new Error(name)
    const result = compile(read.value, NO_SURROUNDINGS, catalog, { host: '127.0.0.1', port: 1883, root: 'vn' }, 1)
    return [name.replace('.json', ''), result.ok ? 'runs' : result.reasons[0]]
  })
  expect(results).toEqual(
    ['damp-cupboard', 'gallery-door', 'kiln-vent', 'slip-tank', 'wheel-panel', 'yard-bridge'].map((n) => [n, 'runs']),
  )
})

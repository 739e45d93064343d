import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { designSchema } from '../../src/core/model/design'
import type { CloselyHeard } from '../../src/core/publish/payload'
import { bounces, listened } from '../../src/core/trace/closely'
import { compile } from '../../src/core/nodefile/compile'
import { NO_SURROUNDINGS } from '../../src/core/surroundings/surroundings'
import { after, catalog } from '../support/designs'
import type { Product } from '../../src/server/product'
import fs from 'node:fs'
import { type RaisedBoard, raiseBoard } from '../support/boards'
import { listen, login, PASSWORDS, startProduct, until } from '../support/product'

// Close listening on the real runtime through the real broker: raw values at the rate that is said, contacts with their
// bounce, and the node’s own work as it was.
let product: Product
let outside: Awaited<ReturnType<typeof listen>>
const boards: RaisedBoard[] = []
const heard: { node: string; signal: string; heard: CloselyHeard; at: number }[] = []

beforeAll(async () => {
  product = await startProduct()
  outside = await listen(product)
  product.stream.listen((_, e) => {
    if (e.kind === 'close') heard.push({ node: e.node, signal: e.signal, heard: e.heard, at: Date.now() })
  })
})
afterAll(async () => {
  for (const b of boards) await b.end()
  await outside.end()
  await product.stop()
})
const raise = async (...args: Parameters<typeof raiseBoard> extends [unknown, unknown, ...infer R] ? R : never) => {
  const board = await raiseBoard(product, outside, ...args)
  boards.push(board)
  return board
}
const of = (board: RaisedBoard, signal: string) =>
  heard.filter((h) => h.node === board.id && h.signal === signal).map((h) => h.heard)
const share = (board: RaisedBoard, signal: string) =>
  listened(of(board, signal))
    .samples.flatMap((x) => x.value ?? [])
    .slice(-5)
const live = (board: RaisedBoard) => product.workshop.get(board.id)?.live

describe('a node that is awake', () => {
  test('tells raw values at the rate it says, a contact with its bounce, publishes as before, and ends by itself', async () => {
    const board = await raise([])
    await board.heard('level', () => true, 10_000)
    const said = outside.heard.length
    expect(await product.listening.begin(board.id, { signals: ['slevel', 'spress'], everyMs: 20, forS: 6 })).toEqual({
      kind: 'listening',
    })
    // A ranger hears its own echo when it is asked again too soon; a contact can be looked at with every step.
    expect(live(board)?.listening?.rates).toEqual({ slevel: 60, spress: 20 })
    await until(() => of(board, 'slevel').length >= 2, 8000)
    await board.deed({ press: 300 })
    await until(() => bounces(of(board, 'spress')).length >= 2, 8000)
    await until(() => live(board)?.listening === null, 20_000)

    const level = listened(of(board, 'slevel'))
    expect(level.lost).toBe(0)
    // One every 60 ms and what a step takes on top of it; distances of a tank, before they are a level.
    expect(level.everyMs).toBeGreaterThanOrEqual(60)
    expect(level.everyMs).toBeLessThan(150)
    expect(level.samples.every((s) => s.value === null || (s.value > 0.02 && s.value < 4.5))).toBe(true)
    // The key bounces for six milliseconds going down and coming up; nothing of that is a second press.
    for (const b of bounces(of(board, 'spress')).slice(0, 2)) {
      expect(b.edges).toBeGreaterThan(1)
      expect(b.us).toBeGreaterThan(300)
      expect(b.us).toBeLessThan(13_000)
    }
    const published = outside.heard.slice(said).filter((h) => h.topic === `${board.base}/press`)
    expect(published.map((h) => h.text)).toEqual(['"single"'])
    // Levels went out at their own pace: once a second, and when they moved.
    const levels = outside.heard.slice(said).filter((h) => h.topic === `${board.base}/level`)
    expect(levels.length).toBeLessThan(level.samples.length / 3)
    await board.deed({ run: 'print("own step", "step" in _node.by_slug["level"].driver.__dict__, _node.close)' })
    await until(() => board.log.join('').includes('own step False None'), 5000)
    const after = of(board, 'slevel').length
    const since = outside.heard.length
    await until(() => outside.heard.slice(since).filter((h) => h.topic === `${board.base}/level`).length >= 2, 10_000)
    expect(of(board, 'slevel').length).toBe(after)
  }, 120_000)

  test('a new request takes the place of the old one; what cannot be heard is refused; a controller may not ask', async () => {
    const board = boards[0]
    if (!board) throw new Error('no board')
    const begin = (signals: string[], forS = 5) => product.listening.begin(board.id, { signals, everyMs: 100, forS })
    expect(await begin(['slevel'])).toEqual({ kind: 'listening' })
    expect(await begin(['swater'])).toEqual({ kind: 'listening' })
    // A conversion of the thermometer takes 750 ms.
    expect(live(board)?.listening?.rates).toEqual({ swater: 800 })
    const before = outside.heard.length
    await product.listening.end(board.id)
    await board.heard('close/done', (h) => h.text.includes('"id":null') || h.text.includes('"id": null'), 5000, before)
    expect(live(board)?.listening).toBeNull()
    expect(await begin(['sgone'])).toMatchObject({ kind: 'failed', reason: expect.stringContaining('does not have') })
    const controller = await login(product, 'controller', PASSWORDS.controllerPassword)
    const from = outside.heard.length
    await controller.publishAsync(`${board.base}/close/set`, '{"signals":["level"],"forS":5}', { qos: 1 })
    await controller.publishAsync(`${board.base}/pump/set`, '{"value":false,"id":"after"}', { qos: 1 })
    await board.heard('pump/done', (h) => h.text.includes('after'), 5000, from)
    expect(outside.heard.slice(from).some((h) => h.topic.startsWith(`${board.base}/close`))).toBe(false)
    await controller.endAsync()
  }, 60_000)
})

test('a sleeper is asked when it wakes, stays awake for it, and sleeps again', async () => {
  const damp = designSchema.parse(JSON.parse(fs.readFileSync('demo/designs/damp-cupboard.json', 'utf8')))
  const board = await raise([{ kind: 'sleep', everyS: 12, listenS: 1 }], { from: damp })
  await board.heard('status', (h) => h.text.includes('asleep'), 25_000)
  await until(() => !product.link.isHere(board.id), 10_000)
  const signal = Object.keys(damp.signals)[0] ?? ''
  expect(await product.listening.begin(board.id, { signals: [signal], everyMs: 100, forS: 6 })).toEqual({
    kind: 'waits',
  })
  expect(live(board)?.listening).toMatchObject({ until: null })
  await until(() => of(board, signal).length >= 3, 40_000)
  const times = heard.filter((h) => h.node === board.id).map((h) => h.at)
  // Far longer than the second it would have listened.
  expect((times.at(-1) ?? 0) - (times[0] ?? 0)).toBeGreaterThan(1500)
  await board.heard('status', (h) => h.text.includes('asleep'), 30_000, outside.heard.length)
  await until(() => live(board)?.listening === null, 15_000)
}, 150_000)

test('keys of a ladder are heard where they lie; learnt, each is told by what was heard', async () => {
  const board = await raise([
    {
      kind: 'add-part',
      partId: 'pad',
      part: 'keys-ladder-5',
      label: 'Pad',
      signals: [
        { id: 'sone', channel: 'k1', slug: 'one' },
        { id: 'stwo', channel: 'k2', slug: 'two' },
      ],
    },
  ])
  await board.heard('level', () => true, 10_000)
  await product.listening.begin(board.id, { signals: ['sone'], everyMs: 50, forS: 40 })
  const heldAt = async (key: string): Promise<number> => {
    await board.deed({ key, press: 3000 })
    let last: number[] = []
    // Steady, and not the open line.
    await until(() => {
      last = share(board, 'sone')
      return last.length === 5 && Math.max(...last) < 0.9 && Math.max(...last) - Math.min(...last) < 0.01
    }, 8000)
    await until(() => Math.min(...share(board, 'sone')) > 0.9, 8000)
    return last.reduce((a, b) => a + b, 0) / last.length
  }
  const [one, two] = [await heldAt('one'), await heldAt('two')]
  expect(Math.abs(one - two)).toBeGreaterThan(0.05)
  // Learnt the other way round, the node must tell the other key: it goes by what was learnt and by nothing else.
  const compiled = (a: number, b: number) => {
    const design = after(
      board.design,
      { kind: 'set-part', partId: 'pad', setting: 'share1', value: Number((100 * a).toFixed(2)) },
      { kind: 'set-part', partId: 'pad', setting: 'share2', value: Number((100 * b).toFixed(2)) },
    )
    const made = compile(design, NO_SURROUNDINGS, catalog, { host: '127.0.0.1', port: 1883, root: 'vn' }, 1)
    if (!made.ok) throw new Error(made.reasons.join())
    return made.compiled.file.signals.flatMap((s) => (s.driver === 'ladder' ? [s] : []))
  }
  for (const [a, b, told] of [
    [one, two, 'one'],
    [two, one, 'two'],
  ] as const) {
    const within = compiled(a, b).filter((s) => s.lowShare <= one && one < s.highShare)
    expect(within.map((s) => s.slug)).toEqual([told])
  }
}, 90_000)

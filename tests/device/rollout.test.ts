import fs from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { designSchema } from '../../src/core/model/design'
import type { Product } from '../../src/server/product'
import { type RaisedBoard, raiseBoard } from '../support/boards'
import { twentySignals } from '../support/twentySignals'
import { listen, login, startProduct, until } from '../support/product'

// Files and passwords on their way to nodes that sleep, fall off and come back: real broker, real runtime, an access
// point that lets in what it lets in.
let product: Product
let outside: Awaited<ReturnType<typeof listen>>
const boards: RaisedBoard[] = []

beforeAll(async () => {
  product = await startProduct()
  outside = await listen(product)
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
const secretOf = (b: RaisedBoard) =>
  JSON.parse(fs.readFileSync(path.join(b.flashDir, 'secret.json'), 'utf8')) as {
    broker: { password: string }
    networks: Record<string, { password: string }[]>
    n: number
  }
const stateOf = (b: RaisedBoard) =>
  product.credentials
    .states()
    .find((c) => c.ref === 'house')
    ?.nodes.find((n) => n.id === b.id)

describe('a node that sleeps', () => {
  test('wakes, measures, says it, says until when it is away; a file waits for it and runs after the next waking', async () => {
    const damp = designSchema.parse(JSON.parse(fs.readFileSync('demo/designs/damp-cupboard.json', 'utf8')))
    const board = await raise([{ kind: 'sleep', everyS: 14, listenS: 1.5 }], { from: damp })
    const asleep = await board.heard('status', (h) => h.text.includes('asleep'), 20_000)
    const said = JSON.parse(asleep.text) as { for: number; back: number }
    expect(said.for).toBeGreaterThan(3)
    expect(said.for).toBeLessThan(14)
    expect(Math.abs(said.back - (asleep.at / 1000 + said.for))).toBeLessThan(2)
    expect(
      outside.heard.filter((h) => h.topic.startsWith(`${board.base}/`) && /temperature|humidity/.test(h.topic)).length,
    ).toBeGreaterThanOrEqual(4)
    await pauseUntilAsleep(board)
    const signal = Object.keys(product.workshop.get(board.id)?.design.signals ?? {})[0] ?? ''
    const node = product.workshop.get(board.id)
    expect(
      await product.workshop.edit({
        id: crypto.randomUUID(),
        document: board.id,
        base: node?.seq ?? 0,
        author: '',
        at: new Date().toISOString(),
        body: { kind: 'condition', signalId: signal, set: { averageS: 2 } },
      }),
    ).toMatchObject({ kind: 'saved' })
    const sent = await product.revisions.send(board.id)
    expect(sent).toMatchObject({ kind: 'waits', revision: 2, back: said.back })
    expect(product.workshop.get(board.id)?.live.sending).toMatchObject({ step: 'waits for it to wake' })
    await until(() => product.workshop.get(board.id)?.live.running?.revision === 2, 40_000)
    // It goes back to sleep with the new file, and nothing is left on its way.
    const since = outside.heard.length
    await board.heard('status', (h) => h.text.includes('asleep'), 25_000, since)
    expect(product.workshop.get(board.id)?.live.sending).toBeNull()
    // It never lasted: a will is not left behind by a planned sleep.
    expect(outside.heard.some((h) => h.topic === `${board.base}/status` && h.text === '{"is":"offline"}')).toBe(false)
  }, 150_000)
})

async function pauseUntilAsleep(board: RaisedBoard): Promise<void> {
  await until(
    () => product.workshop.get(board.id)?.live.status?.is === 'asleep' && !product.link.isHere(board.id),
    10_000,
  )
}

describe('a file of sixteen pieces', () => {
  test('comes in pieces, goes on where it was when the line was cut, and runs', async () => {
    const twenty = twentySignals()
    const renamed = Object.entries(twenty.signals).map(([signalId, { slug, name }]) => ({
      kind: 'rename-signal' as const,
      signalId,
      slug: `${slug}-of-the-long-kiln-shed`.slice(0, 40),
      name: `${name} in the long kiln shed behind the wheels of the old yard by the water`.slice(0, 60).trim(),
    }))
    const board = await raise(renamed, { from: twenty })
    await until(() => product.workshop.get(board.id)?.live.running?.pieces === 1024, 20_000)
    const steps: string[] = []
    const stop = product.stream.listen((_, e) => {
      const pieces = e.kind === 'live' && e.node === board.id && e.live.sending?.pieces
      // The state of a node is told whenever anything of it changes.
      if (pieces && steps.at(-1) !== `${pieces.sent}/${pieces.of}`) steps.push(`${pieces.sent}/${pieces.of}`)
    })
    const sent = product.revisions.send(board.id)
    await until(() => steps.length >= 5, 20_000)
    await board.deed({ cut: true })
    const before = steps.length
    await until(() => !product.link.isHere(board.id), 40_000)
    await board.deed({ cut: false })
    expect(await sent).toMatchObject({ kind: 'running' })
    stop()
    const of = Number(steps[0]?.split('/')[1])
    expect(of).toBeGreaterThanOrEqual(16)
    // No piece that was acknowledged went out again.
    const numbers = steps.map((s) => Number(s.split('/')[0]))
    expect(numbers.every((n, i) => i === 0 || n === (numbers[i - 1] ?? 0) + 1)).toBe(true)
    expect(numbers.length).toBeGreaterThan(before)
  }, 240_000)
})

describe('a network’s password', () => {
  test('changed before the access point: each node tries it, goes back, keeps both; changed there it gets in, and the old one goes', async () => {
    const board = await raise([])
    const [before] = secretOf(board).networks.house ?? []
    expect(stateOf(board)).toMatchObject({ state: 'carried' })
    expect(await product.credentials.change('house', 'short')).toMatch(/8 to 63/)
    expect(await product.credentials.change('house', 'clay-and-water-9')).toBeNull()
    await until(() => stateOf(board)?.state === 'trying', 5000)
    // The access point still wants the old one: the node is back within its time, and says why.
    const since = outside.heard.length
    await until(
      () => stateOf(board)?.state === 'pending' && stateOf(board)?.reason !== null,
      60_000,
      () => JSON.stringify(stateOf(board)),
    )
    expect(stateOf(board)?.reason).toMatch(/old way in is used again/)
    await board.here(5000, since)
    await until(() => secretOf(board).networks.house?.length === 2, 5000)
    expect(secretOf(board).networks.house?.map((w) => w.password)).toEqual([before?.password, 'clay-and-water-9'])
    // Never in clear anywhere on the way.
    expect(outside.heard.some((h) => h.text.includes('clay-and-water-9'))).toBe(false)
    expect(product.ingest.ledger.since(0).some((r) => r.payload.includes('clay-and-water-9'))).toBe(false)
    // Now somebody changes it at the access point: everything falls off and finds its way by the second one.
    product.guest?.setAir({ 'kestrel-yard': 'clay-and-water-9' })
    await until(
      () => stateOf(board)?.state === 'carried',
      90_000,
      () => JSON.stringify(stateOf(board)),
    )
    await until(() => secretOf(board).networks.house?.length === 1, 10_000)
    expect(secretOf(board).networks.house?.map((w) => w.password)).toEqual(['clay-and-water-9'])
  }, 200_000)

  test('a recorded message does nothing a second time, and one sealed for another node nothing at all', async () => {
    const board = boards.at(-1)
    if (!board) throw new Error('no board')
    const kept = secretOf(board).n
    const from = outside.heard.length
    for (const payload of ['', 'x', Buffer.alloc(96).toString('base64'), '!!!'])
      await product.link.publish(`${board.base}/vault/set`, payload, false)
    await board.heard('vault/done', (h) => h.text.includes('not sealed for this node'), 5000, from)
    expect(secretOf(board).n).toBe(kept)
    expect(await board.command('pump', false)).toMatchObject({ result: 'done' })
  })

  test('a node’s own login is renewed: both count until it is back with the new one, then the old one no more', async () => {
    const board = boards.at(-1)
    if (!board) throw new Error('no board')
    const old = secretOf(board).broker.password
    const name = `node-${board.slug}`
    const lets = (password: string) =>
      login(product, name, password, 'asks').then(
        (c) => c.endAsync(true).then(() => true),
        () => false,
      )
    expect(await lets(old)).toBe(true)
    expect(await product.credentials.renewLogin(board.id)).toEqual({ ok: true })
    await until(() => secretOf(board).broker.password !== old, 5000)
    expect(await lets(old)).toBe(false)
    expect(await lets(secretOf(board).broker.password)).toBe(true)
    expect(await board.command('pump', false)).toMatchObject({ result: 'done' })
  }, 60_000)
})

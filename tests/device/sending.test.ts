import { LISTEN_ONLY, prove } from '../../src/proving/prove'
import { fork, type ChildProcess } from 'node:child_process'
import fs from 'node:fs'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { designSchema } from '../../src/core/model/design'
import type { Product } from '../../src/server/product'
import type { EditBody } from '../../src/core/edits/edit'
import type { ListedEntity } from '../../src/wire/protocol'
import { type RaisedBoard, raiseBoard } from '../support/boards'
import { listen, PASSWORDS, startProduct, until } from '../support/product'

// A rename in the shop and one of a node reach every board there is, in their order, while a controller looks on.
let product: Product
let outside: Awaited<ReturnType<typeof listen>>
let controller: ChildProcess
const boards: RaisedBoard[] = []
/** What the controller lists, each time it says so. */
const lists: ListedEntity[][] = []

beforeAll(async () => {
  product = await startProduct()
  outside = await listen(product)
  product.stream.listen((_, e) => e.kind === 'entities' && lists.push(e.entities))
  controller = fork('build/controller.mjs', {
    env: {
      ...process.env,
      VIVID_BROKER_URL: `mqtt://127.0.0.1:${product.options.mqttPort}`,
      VIVID_CONTROLLER_PASSWORD: PASSWORDS.controllerPassword,
    },
    stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
  })
})
afterAll(async () => {
  controller.kill()
  for (const b of boards) await b.end()
  await outside.end()
  await product.stop()
})

const edit = async (id: string, body: EditBody) =>
  expect(
    await product.workshop.edit({
      id: crypto.randomUUID(),
      document: id,
      base: product.workshop.get(id)?.seq ?? 0,
      author: '',
      at: new Date().toISOString(),
      body,
    }),
  ).toMatchObject({ kind: 'saved' })

test('who stays is sent before who moves, a sleeper when it wakes; the controller loses nothing and sees nothing twice', async () => {
  const damp = designSchema.parse(JSON.parse(fs.readFileSync('demo/designs/damp-cupboard.json', 'utf8')))
  for (const more of [{}, {}, { from: damp }]) {
    const edits: EditBody[] = 'from' in more ? [{ kind: 'sleep', everyS: 12, listenS: 1 }] : []
    boards.push(await raiseBoard(product, outside, edits, more))
  }
  const [mover, stays, sleeper] = boards
  if (!mover || !stays || !sleeper) throw new Error('no boards')
  // A first file of the product's own for each, so that it knows what they run.
  for (const b of boards) await product.revisions.send(b.id)
  const runs = (b: RaisedBoard) => product.workshop.get(b.id)?.live.running?.revision ?? 0
  const settled = async () => {
    const { order, left } = await product.sending.plan()
    return order.length + left.length === 0 && boards.every((b) => !product.workshop.get(b.id)?.live.sending)
  }
  await until(async () => boards.every((b) => runs(b) > 0) && (await settled()), 60_000)
  const revision = runs(sleeper)

  const place = product.workshop.get(mover.id)?.design.place ?? ''
  await product.shop.edit({
    id: crypto.randomUUID(),
    document: 'shop',
    base: product.shop.seq,
    author: 'test',
    at: new Date().toISOString(),
    body: { kind: 'rename-place', placeId: place, name: 'Back yard' },
  })
  await edit(mover.id, { kind: 'identify', name: 'a moved one', slug: 'moved', place })
  await edit(sleeper.id, { kind: 'identify', name: sleeper.slug, slug: sleeper.slug, place })
  await sleeper.heard('status', (h) => h.text.includes('asleep'), 30_000, outside.heard.length)
  await until(() => !product.link.isHere(sleeper.id), 10_000)

  const plan = await product.sending.plan()
  expect(plan.order.map((n) => [n.id, n.reach, n.moves])).toEqual([
    [stays.id, 'here', false],
    [mover.id, 'here', true],
    [sleeper.id, 'asleep', false],
  ])
  expect(plan.order[0]?.why.join()).toMatch(/Back yard/)

  const thing = `urn:uuid:${mover.id}`
  await until(() => (lists.at(-1)?.filter((e) => e.thing === thing).length ?? 0) > 4, 10_000)
  const since = lists.length - 1
  const sent = await product.sending.send()
  expect(sent?.map((s) => [s.id, s.outcome])).toEqual([
    [stays.id, 'runs'],
    [mover.id, 'runs'],
    [sleeper.id, 'waits'],
  ])
  await until(() => runs(sleeper) > revision, 40_000)
  await until(settled, 10_000)

  const seen = lists.slice(since).map((l) => l.filter((e) => e.thing === thing).map((e) => e.id))
  expect(seen.length).toBeGreaterThan(1)
  const before = seen[0] ?? []
  expect(before.length).toBeGreaterThan(4)
  for (const ids of seen) expect([...ids].sort()).toEqual([...before].sort())
  // It is the moved one that is seen at the end, and nothing is kept under the old name.
  await until(() => lists.at(-1)?.some((e) => e.thing === thing && e.area === 'Back yard' && e.available), 10_000)
  const last = lists.at(-1) ?? []
  expect(last.filter((e) => e.thing === thing).every((e) => e.area === 'Back yard' && e.available)).toBe(true)
  const fresh = await listen(product)
  await fresh.until((h) => h.topic === 'vn/moved/td', 5000)
  expect(fresh.heard.filter((h) => h.topic.startsWith(`${mover.base}/`))).toEqual([])
  await fresh.end()

  // A signal that is renamed leaves nothing under its old name either: the contract test finds no leftover.
  await edit(stays.id, { kind: 'rename-signal', signalId: 'slevel', name: 'height', slug: 'height' })
  expect(await product.revisions.send(stays.id)).toMatchObject({ kind: 'running' })
  const made = await product.controllers.make('prover')
  if (!made.ok) throw new Error(made.reason)
  const { lines } = await prove({
    login: {
      url: `mqtt://127.0.0.1:${product.options.mqttPort}`,
      username: 'prover',
      password: made.password,
    },
    root: 'vn',
    listenS: 3,
    only: [stays.slug],
    deeds: LISTEN_ONLY,
  })
  expect(lines.filter((l) => l.verdict === 'failed')).toEqual([])
  const promised = lines.filter((l) => l.check === 'seen').map((l) => l.topic)
  expect(promised).toContain(`${stays.base}/height`)
  expect(promised).not.toContain(`${stays.base}/level`)
}, 240_000)

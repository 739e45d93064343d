import fs from 'node:fs'
import path from 'node:path'
import { randomUUID } from 'node:crypto'
import { afterAll, beforeAll, expect, test } from 'vitest'
import type { EditBody } from '../../src/core/edits/edit'
import type { Product } from '../../src/server/product'
import { revisionOf } from '../../src/server/db/revisionRows'
import { login, startProduct, until } from '../support/product'

// Nodes that answer as the test says, on the real broker: who is sent, and what ends it.
let product: Product
beforeAll(async () => {
  product = await startProduct()
})
afterAll(() => product.stop())

/** A node of the demo that runs its first file and answers a new one so. */
async function answering(slug: string, result: 'done' | 'refused') {
  const node = product.workshop.bySlug(slug)
  if (!node) throw new Error(slug)
  const flash = path.join(product.options.dataFolder, 'standins', node.id, 'secret.json')
  const { broker } = JSON.parse(fs.readFileSync(flash, 'utf8')) as { broker: { name: string; password: string } }
  const client = await login(product, broker.name, broker.password)
  const kept = await revisionOf(product.db, node.id, 1)
  let asked = 0
  await client.subscribeAsync(`vn/${slug}/config/set`, { qos: 1 })
  client.on('message', (_, payload) => {
    asked += 1
    const { id } = JSON.parse(payload.toString().split('\n')[0] ?? '{}') as { id: string }
    client.publish(`vn/${slug}/config/done`, JSON.stringify({ id, result, reason: 'not today' }), { qos: 1 })
  })
  await client.publishAsync(`vn/${slug}/status`, '{"is":"online"}', { retain: true, qos: 1 })
  await client.publishAsync(`vn/${slug}/config`, JSON.stringify({ revision: 1, hash: kept?.hash ?? '' }), { qos: 1 })
  await until(() => product.workshop.get(node.id)?.live.running?.revision === 1, 5000)
  return { id: node.id, asked: () => asked, end: () => client.endAsync(true) }
}
const renamed = (placeId: string, name: string) =>
  product.shop.edit({
    id: randomUUID(),
    document: 'shop',
    base: product.shop.seq,
    author: 'test',
    at: new Date().toISOString(),
    body: { kind: 'rename-place', placeId, name },
  })

test('what does not run ends it: the next is not sent, and is told why; who is away is not in the order', async () => {
  const first = await answering('kiln-vent', 'refused')
  const second = await answering('slip-tank', 'done')
  const away = await answering('gallery-door', 'done')
  await away.end()
  await until(() => !product.link.isHere(away.id), 5000)
  for (const id of [first.id, second.id, away.id]) {
    const place = product.workshop.get(id)?.design.place ?? ''
    await renamed(place, `${place} of old`)
  }
  const plan = await product.sending.plan()
  expect(plan.order.map((n) => n.id)).toEqual([first.id, second.id])
  expect(plan.left.map((n) => n.id)).toEqual([away.id])
  expect(await product.sending.send()).toEqual([
    { id: first.id, name: 'kiln-vent', outcome: 'failed', why: 'not today', stops: [] },
    { id: second.id, name: 'slip-tank', outcome: 'not sent', why: 'kiln-vent came first', stops: [] },
  ])
  expect([first.asked(), second.asked()]).toEqual([1, 0])

  // A stop that does not stand against what it runs holds it; without it, what stood before does not.
  await first.end()
  await until(() => !product.link.isHere(first.id), 5000)
  const edit = (body: EditBody) =>
    product.workshop.edit({
      id: randomUUID(),
      document: second.id,
      base: product.workshop.get(second.id)?.seq ?? 0,
      author: '',
      at: new Date().toISOString(),
      body,
    })
  expect(
    await edit({ kind: 'add-part', partId: 'panel', part: 'panel-12v', label: 'Panel', signals: [] }),
  ).toMatchObject({
    kind: 'saved',
  })
  expect(await product.sending.send()).toMatchObject([
    { id: second.id, outcome: 'held', stops: [{ key: 'caution:lead:panel', bench: 'parts' }] },
  ])
  expect(second.asked()).toBe(0)
  await edit({ kind: 'remove-part', partId: 'panel' })
  expect(await product.sending.send()).toMatchObject([{ id: second.id, outcome: 'runs' }])
  expect(second.asked()).toBe(1)
  await second.end()
}, 60_000)

import { afterAll, expect, test } from 'vitest'
import { z } from 'zod'
import type { Family } from '../../src/core/radio/subghz/family'
import { demoNodes, listen, type Heard, startProduct, until } from '../support/product'
import { doorSender } from '../support/sendersAround'
import { said } from '../support/trains'

demoNodes.only = ['yard-bridge']
let product = await startProduct()
afterAll(() => product.stop())
const YARD = '3b5f8d16-6c20-4d7e-a1f9-4e8c7b2d0a63'
const door = doorSender(40, [YARD])
const say = (leaf: string, payload: unknown, retain = false) =>
  product.link.publish(`vn/${door.slug}/${leaf}`, JSON.stringify(payload), retain)

test('a sender is announced retained, what is said of it is understood, and it outlives a restart', async () => {
  const ears = await listen(product)
  expect(await product.shop.make({ kind: 'set-sender', senderId: 'd1x', sender: door }, 'test')).toMatchObject({
    kind: 'saved',
  })
  await ears.until((h: Heard) => h.topic === 'vn/door-40/td' && h.text.includes('"vn:heardBy":["yard-bridge"]'), 10_000)
  await ears.end()
  const content = `${door.address.slice(0, 20)}0001`
  await say('door', true, true)
  await say('heard', { by: 'yard-bridge', content })
  await say('via', 'yard-bridge', true)
  await until(() => product.air.states().d1x?.via === 'yard-bridge', 5000)
  expect(product.air.states().d1x).toMatchObject({ by: 'yard-bridge', values: { door: { value: true } } })
  await say('door', 'ajar', true)
  await until(() => product.ingest.troubles.some((t) => t.topic === 'vn/door-40/door'), 5000)
  const { dataFolder, mqttPort } = product.options
  await product.stop()
  product = await startProduct(dataFolder, mqttPort)
  expect(product.air.states().d1x?.bursts).toMatchObject([{ by: 'yard-bridge' }])
})

test('a burst is acknowledged when it is stored, however long the database cannot; no mark of rubbish gets there', async () => {
  const rows = () => product.db.query(z.object({ content: z.string() }), 'select content from bursts order by at')
  const before = await rows()
  const mark = (content: string) =>
    product.ingest.take({
      topic: `vn/${door.slug}/heard`,
      payload: Buffer.from(JSON.stringify({ by: 'yard-bridge', content })),
      qos: 1,
      retain: false,
      from: 'yard-bridge',
    })
  await mark('01\0')
  await product.db.run('alter table bursts rename to bursts_away')
  let acknowledged = false
  const content = `${door.address.slice(0, 20)}1110`
  const taken = mark(content).then(() => (acknowledged = true))
  await until(() => product.ingest.troubles.some((t) => t.what.includes('not stored yet')), 5000)
  expect(acknowledged).toBe(false)
  await product.db.run('alter table bursts_away rename to bursts')
  await taken
  expect((await rows()).map((r) => r.content)).toEqual([...before.map((r) => r.content), content])
})

test('nodes and senders share one list of names: in words, and in the database whatever asks it', async () => {
  const taken = { ...door, slug: 'yard-bridge', tag: 'Z99' }
  expect(await product.shop.make({ kind: 'set-sender', senderId: 'd2x', sender: taken }, 'test')).toMatchObject({
    kind: 'refused',
    reason: 'a node is called “yard-bridge” already',
  })
  const node = product.workshop.get(YARD)
  if (!node) throw new Error('the demo has this node')
  const { design } = node
  expect(await product.workshop.add({ ...design, id: crypto.randomUUID(), slug: 'door-40' }, 'test')).toBe(
    'a sender is called “door-40” already',
  )
  const clash = product.db.query(z.unknown(), "update nodes set slug = 'door-40' where id = $1", [YARD])
  await expect(clash).rejects.toThrow(/duplicate key|slugs/)
})

test('raw frames are read, two alike are one arrival, and what is forgotten is cleared at the broker', async () => {
  const latch = product.shop.document.families.latch as Family
  const frame = said(latch, '010110100011110001110001')
  for (let n = 0; n < 3; n++) await product.link.publish('vn/yard-bridge/rx/subghz', JSON.stringify(frame), false)
  await until(() => product.air.heard().bursts.length === 1, 5000)
  expect(product.air.heard().bursts[0]).toMatchObject({ by: 'yard-bridge', code: '010110100011110001110001' })
  await product.shop.make({ kind: 'set-sender', senderId: 'd1x', sender: null }, 'test')
  await until(() => product.ingest.buffer.retainedTopics('vn/door-40/').length === 0, 10_000)
})

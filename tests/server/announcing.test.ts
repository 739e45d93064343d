import mqtt from 'mqtt'
import { afterAll, expect, test } from 'vitest'
import { demoNodes, login, SLIP_TANK, startProduct, until } from '../support/product'

demoNodes.only = ['slip-tank']
const product = await startProduct()
afterAll(() => product.stop())

test('a template is published retained, follows a rename, and is cleared when it or its node goes; a broken one is said', async () => {
  const made = await product.controllers.make('panel')
  if (!made.ok) throw new Error(made.reason)
  const client = await login(product, 'panel', made.password)
  const kept = new Map<string, string>()
  client.on('message', (topic, payload) => {
    if (payload.length === 0) kept.delete(topic)
    else kept.set(topic, payload.toString())
  })
  await client.subscribeAsync(['panel/#', 'other/#'], { qos: 1 })
  // The board says which file it runs: from then on its node is announced.
  product.workshop.runs(SLIP_TANK, { revision: 1, hash: 'x' })
  await until(() => kept.size === 4, 10_000)
  expect([...kept.keys()].sort()).toEqual(['level', 'press', 'pump', 'water'].map((s) => `panel/slip-tank/${s}`))
  const edit = (body: object) =>
    product.workshop.edit({
      id: crypto.randomUUID(),
      document: SLIP_TANK,
      base: product.workshop.get(SLIP_TANK)?.seq ?? 0,
      author: 'test',
      at: new Date().toISOString(),
      body,
    } as never)
  await edit({ kind: 'rename-signal', signalId: 'slevel', name: 'height', slug: 'height' })
  await until(() => kept.has('panel/slip-tank/height') && !kept.has('panel/slip-tank/level'), 10_000)
  const listening = product.controllers.list().find((c) => c.name === 'panel')
  expect(listening?.since).toMatch(/^\d{4}-/)
  expect(listening?.unasked).toContain('vn/slip-tank/height')
  await product.lifecycle.retire(SLIP_TANK, 'test')
  await until(() => kept.size === 0, 10_000)
  await client.endAsync(true)
  // Nothing is left for whoever comes later.
  const later = await mqtt.connectAsync(`mqtt://127.0.0.1:${product.options.mqttPort}`, {
    username: 'panel',
    password: made.password,
    reconnectPeriod: 0,
  })
  let found = 0
  later.on('message', () => (found += 1))
  await later.subscribeAsync('panel/#', { qos: 1 })
  await later.subscribeAsync('vn/product/status', { qos: 1 })
  await until(() => found === 1, 5000)
  await later.endAsync(true)
})

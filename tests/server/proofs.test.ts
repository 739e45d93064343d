import mqtt from 'mqtt'
import { afterAll, expect, test } from 'vitest'
import { controllerName } from '../../src/wire/controllers'
import { foreignBroker } from '../support/foreignBroker'
import { demoNodes, startProduct, tempFolder, until } from '../support/product'

demoNodes.only = ['slip-tank']
const folder = tempFolder()
const broker = await foreignBroker({ logins: { vivid: 'vivid-pass' } })
let product = await startProduct(folder)
afterAll(async () => {
  await product.stop()
  await broker.close()
})
const LISTEN = { node: null, listenS: 1, commands: false, act: false, hands: false, away: false }

async function proved() {
  const before = (await product.proofs.list(null)).proofs.length
  expect(product.proofs.begin(LISTEN)).toEqual({ ok: true })
  expect(product.proofs.begin(LISTEN)).toMatchObject({ ok: false, status: 409 })
  const all = await until(async () => {
    const { proofs, going, trouble } = await product.proofs.list(null)
    if (trouble !== null) throw new Error(trouble)
    return going === null && proofs.length > before ? proofs : null
  }, 20_000)
  return all?.[0]?.report.lines.filter((l) => l.verdict === 'failed').map((l) => [l.topic, l.check]) ?? []
}

test('what was left at a broker is found, cleared on request and nothing else, and not found again', async () => {
  await product.link.keep(
    { kind: 'outside', url: broker.url, login: 'vivid', nodeLogin: '' },
    { outside: 'vivid-pass' },
  )
  const other = await mqtt.connectAsync(broker.url, { username: 'vivid', password: 'vivid-pass', reconnectPeriod: 0 })
  const keep = (topic: string) => other.publishAsync(topic, '1', { retain: true, qos: 1 })
  await keep('vn/gone-node/level')
  await keep('vn/gone-node/pump/set')
  await keep('elsewhere/level')
  const left = ['vn/gone-node/level', 'vn/gone-node/pump/set']
  expect((await proved()).sort()).toEqual(left.map((t) => [t, 'leftover']))
  expect(await product.proofs.clear(null, ['elsewhere/level'])).toMatchObject({ ok: false, status: 409 })
  expect(await product.proofs.clear(null, left)).toEqual({ ok: true })
  expect(await proved()).toEqual([])
  // What is not ours is still there.
  const kept = new Set<string>()
  other.on('message', (topic) => kept.add(topic))
  await other.subscribeAsync('elsewhere/#', { qos: 1 })
  await until(() => kept.has('elsewhere/level'), 5000)
  await other.endAsync()
})

test('the login of a run that was killed lets nobody in after the next start; a person’s cannot be called like one', async () => {
  await product.logins.set('proof-killed', 'controller', null, 'left-behind')
  await product.logins.set('house', 'controller', null, 'house-pass')
  await product.stop()
  product = await startProduct(folder)
  expect([product.logins.has('proof-killed'), product.logins.has('house')]).toEqual([false, true])
  expect(controllerName.safeParse('proof-house').success).toBe(false)
  expect((await product.proofs.list(null)).proofs).toHaveLength(2)
})

import { afterAll, expect, test } from 'vitest'
import { readingsSince } from '../../src/server/db/messageRows'
import { listen, login, SLIP_TANK, startProduct, tempFolder } from '../support/product'

const folder = tempFolder()
let product = await startProduct(folder)
afterAll(() => product.stop())
const slugs = () => product.workshop.all().map((n) => n.design.slug)

test('a copy is the same to build and has nothing of the one that stands: no made wires, no calibration, no addresses', async () => {
  const made = await product.lifecycle.copy(SLIP_TANK, 'Slip tank two', 'test')
  if ('reason' in made) throw new Error(made.reason)
  const [own, copy] = [product.workshop.get(SLIP_TANK)?.design, product.workshop.bySlug(made.slug)?.design]
  expect(copy?.plan.pins).toEqual(own?.plan.pins)
  expect(Object.keys(copy?.rules ?? {})).toEqual(Object.keys(own?.rules ?? {}))
  expect(copy?.id).not.toBe(own?.id)
  for (const wire of Object.values(copy?.wires ?? {})) expect(wire.made).toBe(false)
  for (const signal of Object.values(copy?.signals ?? {})) expect(signal.calibration).toBeNull()
  expect(await product.lifecycle.copy('5f0c2b1e-0000-4c36-9d52-1b7e6a90c3d1', 'x', 'test')).toHaveProperty('reason')
})

test('a retired node’s topics are cleared and its login stops; its history stays and comes back with it', async () => {
  await product.logins.set('node-slip-tank', 'node', SLIP_TANK, 'node-pass')
  const node = await login(product, 'node-slip-tank', 'node-pass')
  await node.publishAsync('vn/slip-tank/level', '410', { retain: true, qos: 1 })
  await node.publishAsync('vn/slip-tank/td', '{}', { retain: true, qos: 1 })
  const outside = await listen(product, 'vn/slip-tank/#')
  await outside.until((h) => h.topic === 'vn/slip-tank/level' && h.text === '410')
  const closed = new Promise<void>((r) => node.once('close', () => r()))
  expect(await product.lifecycle.retire(SLIP_TANK, 'bench hand')).toBeNull()
  await closed
  await outside.until((h) => h.topic === 'vn/slip-tank/level' && h.text === '')
  await outside.until((h) => h.topic === 'vn/slip-tank/td' && h.text === '')
  await expect(login(product, 'node-slip-tank', 'node-pass')).rejects.toThrow(/bad username or password/i)
  expect(slugs()).not.toContain('slip-tank')
  await outside.end()
  // A restart knows it as retired, and nothing of it is at the broker.
  await product.stop()
  product = await startProduct(folder)
  expect(slugs()).not.toContain('slip-tank')
  expect(await product.lifecycle.retired()).toMatchObject([{ id: SLIP_TANK, slug: 'slip-tank' }])
  const later = await listen(product, 'vn/slip-tank/#')
  expect(later.heard).toEqual([])
  await later.end()
  expect(await product.lifecycle.bringBack(SLIP_TANK, 'bench hand')).toBeNull()
  expect(slugs()).toContain('slip-tank')
  expect((await readingsSince(product.db, SLIP_TANK, 'slevel', 3600)).map((r) => r.number)).toContain(410)
})

test('only a retired node is deleted, and only with its name typed', async () => {
  const name = product.workshop.get(SLIP_TANK)?.design.name ?? ''
  expect(await product.lifecycle.remove(SLIP_TANK, name)).toMatch(/no such retired node/)
  await product.lifecycle.retire(SLIP_TANK, 'test')
  expect(await product.lifecycle.remove(SLIP_TANK, 'another')).toMatch(/nothing was deleted/)
  expect(await product.lifecycle.remove(SLIP_TANK, name)).toBeNull()
  expect(await product.lifecycle.retired()).toEqual([])
  expect(await readingsSince(product.db, SLIP_TANK, 'slevel', 3600)).toEqual([])
})

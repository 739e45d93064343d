import { afterAll, expect, test } from 'vitest'
import { login, startProduct, until } from '../support/product'

const product = await startProduct()
afterAll(() => product.stop())

test('a controller’s login lets in once made, is renewed and withdrawn, and whoever was in with it is put out', async () => {
  const made = await product.controllers.make('house')
  if (!made.ok) throw new Error(made.reason)
  const client = await login(product, 'house', made.password)
  const listed = () => product.controllers.list().find((c) => c.name === 'house')
  await until(() => listed()?.connections === 1, 3000)
  expect(listed()).toMatchObject({ name: 'house', at: expect.stringMatching(/^\d{4}-/), connections: 1 })
  expect(await product.controllers.make('house')).toMatchObject({ ok: false, reason: expect.stringMatching(/already/) })
  // What its rights say: it hears readings, not files; it commands, and publishes nothing else.
  expect((await client.subscribeAsync('vn/#'))[0]?.qos).not.toBe(128)
  const closed = new Promise<void>((r) => client.once('close', () => r()))
  const renewed = await product.controllers.renew('house')
  if (!renewed.ok) throw new Error(renewed.reason)
  await closed
  await expect(login(product, 'house', made.password)).rejects.toThrow(/bad username or password/i)
  const again = await login(product, 'house', renewed.password)
  const out = new Promise<void>((r) => again.once('close', () => r()))
  expect(await product.controllers.withdraw('house')).toBeNull()
  await out
  await expect(login(product, 'house', renewed.password)).rejects.toThrow(/bad username or password/i)
  await until(() => !product.controllers.list().some((c) => c.name === 'house'), 3000)
  expect(await product.controllers.withdraw('node-slip-tank')).toMatch(/no controller/)
  expect(await product.controllers.renew('standin')).toMatchObject({ ok: false })
  await Promise.all([client.endAsync(true), again.endAsync(true)])
})

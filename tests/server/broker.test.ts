import { execFileSync, spawnSync } from 'node:child_process'
import fs from 'node:fs'
import path from 'node:path'
import fc from 'fast-check'
import { afterEach, describe, expect, test } from 'vitest'
import { z } from 'zod'
import { KeptMessages, WAITING } from '../../src/broker/keptMessages'
import { brokerFolderOf } from '../../src/server/broker/brokerProcess'
import { originOf, withOrigin } from '../../src/wire/brokerControl'
import { House, killBroker, killProduct } from '../support/house'
import { demoNodes, freePort, login, PASSWORDS, SLIP_TANK, startProduct, tempFolder, until } from '../support/product'

demoNodes.only = ['slip-tank']

const ended: (() => unknown)[] = []
afterEach(async () => {
  for (const end of ended.splice(0).reverse()) await end()
})

const built = async (): Promise<House> => {
  const house = await House.build()
  ended.push(() => house.end())
  return house
}
const bin = (house: House, what: string): string =>
  execFileSync('bin/broker', [what], {
    env: { ...process.env, VIVID_DATA: house.folder, MQTT_PORT: String(house.port) },
  }).toString()

describe('the house without the product', () => {
  // The long form of both: `npm run kill -- product 50` and `npm run kill -- broker 50`.
  test('nodes stay connected while it is killed again and again; what was acknowledged is in the history once, at its time', async () => {
    const r = await killProduct(await built(), 4)
    expect(r).toMatchObject({ lost: 0, twice: 0, cuts: 0, stayed: true })
    expect(r.acknowledged).toBeGreaterThan(200)
    expect(r.apartMs).toBeLessThan(1500)
  }, 240_000)

  test('retained messages and what waits for the product live through kills of the broker', async () => {
    const house = await built()
    const r = await killBroker(house, 5, () => bin(house, 'start'))
    expect(r.retained).toEqual(r.kept)
    expect(r.stored).toEqual(r.readings)
  }, 120_000)

  test('says whether the product runs, and ends only when it is told to', async () => {
    const house = await built()
    const said: string[] = []
    let end = await house.serve()
    const reader = await house.reader()
    reader.on('message', (_, payload) =>
      said.push(z.object({ is: z.string() }).parse(JSON.parse(payload.toString())).is),
    )
    await reader.subscribeAsync('vn/product/status')
    await until(() => said.at(-1) === 'online', 5000)
    await end('SIGKILL')
    await until(() => said.at(-1) === 'offline', 5000)
    end = await house.serve()
    await until(() => said.at(-1) === 'online', 5000)
    await end('SIGTERM')
    await until(() => said.at(-1) === 'offline', 5000)
    await reader.endAsync(true)
    expect(bin(house, 'status')).toMatch(/runs/)
    expect(bin(house, 'stop')).toMatch(/has ended/)
    expect(() => house.broker).toThrow()
    expect(bin(house, 'start')).toMatch(/runs/)
    expect(bin(house, 'status')).toMatch(String(house.port))
  }, 60_000)

  test('a second broker on the same files does not start, and leaves the first one’s messages alone', async () => {
    const house = await built()
    await (
      await house.serve()
    )('SIGTERM')
    const node = await house.node()
    await node.publishAsync('vn/slip-tank/level', '1', { qos: 1 })
    const port = await freePort()
    const options = {
      folder: brokerFolderOf(house.folder),
      host: '127.0.0.1',
      port,
      root: 'vn',
      tls: null,
      ends: false,
    }
    const second = spawnSync(process.execPath, ['build/broker.mjs', 'run', JSON.stringify(options)], {
      timeout: 20_000,
    })
    expect(second.status).toBe(1)
    expect(second.stderr.toString()).toMatch(/in use by process \d+/)
    await node.publishAsync('vn/slip-tank/level', '2', { qos: 1 })
    process.kill(house.broker.pid, 'SIGKILL')
    expect((await house.history(2)).map((r) => r.number)).toEqual([1, 2])
  }, 60_000)

  test('what an earlier release had retained in the database is carried over, once', async () => {
    const folder = tempFolder()
    const first = await startProduct(folder)
    await first.db.run(
      "insert into retained (topic, payload, qos) values ('vn/slip-tank/level', $1, 0) on conflict (topic) do update set payload = excluded.payload",
      [Buffer.from('377')],
    )
    await first.stop()
    fs.rmSync(brokerFolderOf(folder), { recursive: true })
    const product = await startProduct(folder)
    const reader = await login(product, 'outside', PASSWORDS.outsidePassword)
    const heard: string[] = []
    reader.on('message', (_, payload) => heard.push(payload.toString()))
    await reader.subscribeAsync('vn/slip-tank/level')
    await until(() => heard.includes('377'), 5000)
    expect(product.workshop.get(SLIP_TANK)?.live.values.slevel?.value).toBe(377)
    await reader.endAsync(true)
    await product.stop()
  }, 60_000)
})

describe('who may what', () => {
  test('follows the files of a node: wider before one is sent, narrower once the node runs it', async () => {
    const product = await startProduct()
    ended.push(() => product.stop())
    await product.logins.set('node-x', 'node', SLIP_TANK, 'node-pass')
    const node = await login(product, 'node-x', 'node-pass')
    const heard: string[] = []
    node.on('message', (topic) => heard.push(topic))
    await node.subscribeAsync('vn/+/+/set').then(
      ([grant]) => expect(grant?.qos).toBe(128),
      () => undefined,
    )
    await node.subscribeAsync('vn/slip-tank/+/set')
    const outside = await login(product, 'outside', PASSWORDS.outsidePassword)
    const seen: string[] = []
    outside.on('message', (topic, payload) => seen.push(`${topic} ${payload.toString()}`))
    await outside.subscribeAsync('vn/#')
    const says = async (topic: string, text: string) => {
      await node.publishAsync(topic, text, { qos: 1 })
      await node.publishAsync('vn/slip-tank/fault', text, { qos: 1 })
      await until(() => seen.includes(`vn/slip-tank/fault ${text}`), 5000)
      return seen.includes(`${topic} ${text}`)
    }
    expect(await says('vn/slip-tank/level', '1')).toBe(true)
    expect(await says('vn/slip-tank/depth', '2')).toBe(false)
    const signalId = 'slevel'
    const rename = { kind: 'rename-signal' as const, signalId, name: 'depth', slug: 'depth' }
    const saved = await product.workshop.edit({
      id: '2b0e6a54-6d9c-4f39-9d5b-6d3f2e0b7c11',
      document: SLIP_TANK,
      base: product.workshop.get(SLIP_TANK)?.seq ?? 0,
      body: rename,
      author: 'test',
      at: new Date().toISOString(),
    })
    expect(saved.kind).toBe('saved')
    // A design alone gives nobody a voice.
    expect(await says('vn/slip-tank/depth', '3')).toBe(false)
    await node.publishAsync('vn/slip-tank/status', '{"is":"online"}', { qos: 1, retain: true })
    await until(() => product.link.isHere(SLIP_TANK), 5000)
    const sending = product.revisions.send(SLIP_TANK)
    await until(() => heard.includes('vn/slip-tank/config/set'), 10_000)
    expect(await says('vn/slip-tank/depth', '4')).toBe(true)
    expect(await says('vn/slip-tank/level', '5')).toBe(true)
    const [row] = await product.db.query(
      z.object({ revision: z.number(), hash: z.string() }),
      'select revision, hash from revisions where node_id = $1 order by revision desc limit 1',
      [SLIP_TANK],
    )
    await node.publishAsync('vn/slip-tank/config', JSON.stringify(row), { qos: 1, retain: true })
    await until(() => product.workshop.get(SLIP_TANK)?.live.running?.revision === row?.revision, 5000)
    for (let n = 6; await says('vn/slip-tank/level', String(n)); n++) expect(n).toBeLessThan(50)
    expect(await says('vn/slip-tank/depth', '60')).toBe(true)
    await Promise.all([node.endAsync(true), outside.endAsync(true)])
    // Its own answer never comes: the product ends before it has waited for it.
    void sending.catch(() => undefined)
  }, 60_000)

  test('a guest keeps to its topics, and speaks for no node', async () => {
    const product = await startProduct()
    ended.push(() => product.stop())
    const made = await product.controllers.make('weather', ['weather', 'vn/slip-tank'])
    if (!made.ok) throw new Error(made.reason)
    const guest = await login(product, 'weather', made.password)
    const granted = async (filter: string) =>
      guest.subscribeAsync(filter).then(
        ([grant]) => (grant?.qos ?? 128) < 128,
        () => false,
      )
    expect(await granted('weather/#')).toBe(true)
    expect(await granted('vn/slip-tank/+')).toBe(true)
    for (const filter of ['#', 'vn/#', 'vn/kiln-vent/#', '+/slip-tank/#']) expect(await granted(filter)).toBe(false)
    const heard: string[] = []
    guest.on('message', (topic) => heard.push(topic))
    await guest.publishAsync('vn/slip-tank/level', '9', { qos: 1 })
    await guest.publishAsync('vn/slip-tank/pump/set', 'true', { qos: 1 })
    await guest.publishAsync('weather/outside', '9', { qos: 1 })
    await until(() => heard.includes('weather/outside'), 5000)
    expect(heard.filter((t) => t === 'vn/slip-tank/level' || t.endsWith('/set'))).toEqual([])
    await guest.endAsync(true)
  }, 60_000)
})

describe('what the broker keeps', () => {
  const message = (i: number) => ({
    topic: `t/${i % 3}`,
    payload: Buffer.from(`payload ${i} é`),
    qos: 1 as const,
    retain: i % 2 === 0,
    from: 'node',
    at: 1000 + i,
  })

  test('cut at any byte it opens with a beginning of what was written, in order, and goes on from there', async () => {
    const folder = tempFolder()
    const store = new KeptMessages(folder)
    const whole: string[] = []
    for (let i = 0; i < 12; i++) {
      await store.keep(message(i), true).kept
      if (i === 5) store.taken(2)
      whole.push(JSON.stringify([...store.waiting.keys()]))
    }
    await store.end()
    const file = path.join(folder, 'messages.log')
    const bytes = fs.readFileSync(file)
    for (let cut = 0; cut <= bytes.length; cut += 3) {
      fs.writeFileSync(file, bytes.subarray(0, cut))
      const again = new KeptMessages(folder)
      const has = [...again.waiting.keys()]
      expect(has.every((n, i) => i === 0 || n > (has[i - 1] ?? 0))).toBe(true)
      const { n, kept } = again.keep(message(99), true)
      await kept
      expect(n).toBeGreaterThan(Math.max(0, ...has))
      await again.end()
      const third = new KeptMessages(folder)
      expect(third.waiting.get(n)?.payload.toString()).toBe('payload 99 é')
      await third.end()
    }
    expect(new Set(whole).size).toBeGreaterThan(10)
  })

  test('a file that is mostly past is written anew, and holds the same', async () => {
    const folder = tempFolder()
    const store = new KeptMessages(folder)
    const large = { ...message(0), payload: Buffer.alloc(40_000, 'x') }
    for (let i = 0; i < 300; i++) {
      const { n, kept } = store.keep(large, true)
      await kept
      if (i < 299) store.taken(n)
    }
    await store.end()
    expect(fs.statSync(path.join(folder, 'messages.log')).size).toBeLessThan(6_000_000)
    const again = new KeptMessages(folder)
    expect([...again.waiting.keys()]).toEqual([300])
    expect(again.retained.size).toBe(1)
    await again.end()
  })

  test('what is too much is not kept, and counted', async () => {
    const store = new KeptMessages(tempFolder())
    const all: Promise<void>[] = []
    for (let i = 0; i < WAITING.messages + 3; i++) all.push(store.keep({ ...message(1), at: i }, true).kept)
    await Promise.all(all)
    expect(store.lost).toEqual({ messages: 3, since: new Date(WAITING.messages).toISOString() })
    expect(store.waiting.size).toBe(WAITING.messages)
    await store.end()
  })

  test('where a message came from travels before its topic and comes off again', () => {
    fc.assert(
      fc.property(
        fc.record({ from: fc.string({ minLength: 1 }), at: fc.nat(2 ** 42), retain: fc.boolean(), n: fc.nat() }),
        fc.string(),
        (origin, topic) => {
          expect(originOf(withOrigin(topic, origin))).toEqual({ topic, origin })
        },
      ),
    )
    expect(originOf('vn/slip-tank/level')).toBeNull()
  })
})

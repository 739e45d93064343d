import { getEventListeners } from 'node:events'
import fs from 'node:fs'
import path from 'node:path'
import { Readable } from 'node:stream'
import { createGzip, gzipSync } from 'node:zlib'
import { pack } from 'tar-stream'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { unpackFolder } from '../../src/server/backup/archive'
import { eventStream } from '../../src/server/http/eventStream'
import type { Product } from '../../src/server/product'
import * as attacks from '../support/attacks'
import { type Demo, startOwn } from '../support/demo'
import { ownCertificate } from '../support/certificate'
import { freePort, startProduct, tempFolder } from '../support/product'

// A short form of `npm run bench -- attack`: the same attacks, fewer of each.

describe('the broker', () => {
  let product: Product
  let secure: attacks.BrokerTarget
  let plain: attacks.BrokerTarget
  beforeAll(async () => {
    const { certFile, keyFile } = ownCertificate()
    const port = await freePort()
    product = await startProduct(undefined, undefined, { port, certFile, keyFile })
    await attacks.prepare(product)
    plain = { product, url: `mqtt://127.0.0.1:${product.options.mqttPort}`, options: {} }
    secure = { product, url: `mqtts://127.0.0.1:${port}`, options: { ca: fs.readFileSync(certFile) } }
  })
  afterAll(() => product.stop())

  const both = (name: string, run: (t: attacks.BrokerTarget) => Promise<attacks.Attacked>) =>
    test.each(['plain', 'secure'] as const)(`${name}, %s`, async (which) => {
      const { through, note } = await run(which === 'plain' ? plain : secure)
      expect(through, note).toBe(0)
    })
  both('a subscriber that does not read is cut; others are served meanwhile', (t) =>
    attacks.unreadSubscriber(t, 450, 60_000),
  )
  both('overlapping filters bring a message once', (t) => attacks.overlapping(t, 60))
  both('subscriptions of one client have an end', (t) => attacks.manySubscriptions(t, 300))
  both('retained messages of one node have an end, and its line stays', (t) => attacks.manyRetained(t, 700))
  both('a right login is in within two seconds of a flood of wrong ones', (t) => attacks.loginFlood(t, 400))
  both('connections of one login have an end', (t) => attacks.manyConnections(t, 30))
  both('what waits for a session that is away has an end', (t) => attacks.absentSession(t, 2600))
  both('topics, filters and ids of others are refused', (t) => attacks.foreignTopics(t))
})

describe('pages', () => {
  let own: Demo
  let node = ''
  const memory = () => Number(fs.readFileSync(`/proc/${own.child.pid ?? 0}/statm`, 'utf8').split(' ')[1]) * 4096
  beforeAll(async () => {
    own = await startOwn()
    await attacks.send(
      `${own.url}/api/nodes`,
      'POST',
      JSON.stringify({ name: 'Bell', place: '', board: 'board-32-30', author: '' }),
    )
    const { nodes } = JSON.parse((await attacks.send(`${own.url}/api/snapshot`, 'GET', null)).text) as {
      nodes: { id: string }[]
    }
    node = nodes[0]?.id ?? ''
  }, 240_000)
  afterAll(async () => {
    await own?.stop()
  })

  const refused = (name: string, run: () => Promise<attacks.Attacked>) =>
    test(name, async () => {
      const { through, note } = await run()
      expect(through, note).toBe(0)
    })
  refused('bodies without an end are refused while they are read', () => attacks.endlessBodies(own.url, 30_000_000))
  refused('what makes no sense is refused with words', () => attacks.nastyBodies(own.url, node))
  refused('one name at once from many sides is given once', () => attacks.sameNames(own.url, 8))
  refused('a design beyond any house is edited while others are answered', () => attacks.hugeDesign(own.url, 4))
  refused('backups are taken one at a time', () => attacks.backupsAtOnce(own.url, 4))
  refused('streams that are dropped leave nothing behind', () => attacks.droppedStreams(own.url, 400, memory))
  refused('pages of others and other names of this machine are turned away', () => attacks.foreignPages(own.url))

  test('an event stream takes its listeners along', async () => {
    const ended = new AbortController()
    const left = () => getEventListeners(ended.signal, 'abort').length
    for (let i = 0; i < 50; i++) {
      const gone = new AbortController()
      const { body } = eventStream(
        new Request('http://yard.test/', { signal: gone.signal }),
        ended.signal,
        () => () => undefined,
      )
      if (i % 2) await body?.cancel()
      else gone.abort()
    }
    expect(left()).toBe(0)
  })
})

test('guesses at the password are bounded when they begin, and an honest slip is answered meanwhile', async () => {
  const locked = await startOwn({ VIVID_SHOP_PASSWORD: 'cone six oxidation' })
  const endless = await attacks.endlessBodies(locked.url, 30_000_000)
  const { through, note } = await attacks.guesses(locked.url, 300, 'cone six oxidation')
  await locked.stop()
  expect(through, note).toBe(0)
  expect(endless.through, endless.note).toBe(0)
})

describe('archives', () => {
  const limits = { bytes: 2_000_000, entries: 50, ms: 20_000 }
  const packed = (fill: (p: ReturnType<typeof pack>) => void) => {
    const tar = pack()
    fill(tar)
    tar.finalize()
    return tar.pipe(createGzip())
  }
  const into = () => path.join(tempFolder(), 'new')

  test.each([
    [
      'one that grows without end',
      () =>
        packed((p) => {
          for (let i = 0; i < 40; i++) p.entry({ name: `f${i}` }, Buffer.alloc(100_000))
        }),
      /more than 2000000 bytes/,
    ],
    [
      'one of many entries',
      () =>
        packed((p) => {
          for (let i = 0; i < 60; i++) p.entry({ name: `f${i}` }, 'x')
        }),
      /more than 50 entries/,
    ],
    [
      'one that reaches out',
      () =>
        packed((p) => {
          p.entry({ name: '../out' }, 'x')
        }),
      /lies outside/,
    ],
    [
      'one with a link',
      () =>
        packed((p) => {
          p.entry({ name: 'PG_VERSION', type: 'symlink', linkname: '/etc/passwd' })
        }),
      /is a symlink/,
    ],
    ['an empty one', () => packed(() => undefined), /nothing is in it/],
    ['no archive', () => Readable.from([Buffer.from('no archive')]), /header/],
    ['half of one', () => Readable.from([gzipSync(Buffer.alloc(5000)).subarray(0, 20)]), /end of file/],
  ])('%s is refused, and nothing of it stays', async (_, from, words) => {
    const folder = into()
    await expect(unpackFolder(from(), folder, limits)).rejects.toThrow(words)
    expect(fs.existsSync(folder)).toBe(false)
    expect(fs.existsSync(path.join(folder, '..', 'out'))).toBe(false)
  })
})

import fc from 'fast-check'
import mqtt from 'mqtt'
import fs from 'node:fs'
import net from 'node:net'
import path from 'node:path'
import { execFileSync, spawn } from 'node:child_process'
import { randomUUID } from 'node:crypto'
import { pipeline } from 'node:stream/promises'
import { afterEach, describe, expect, test } from 'vitest'
import { z } from 'zod'
import type { EditBody } from '../../src/core/edits/edit'
import { placesIn } from '../../src/server/db/beginThread'
import { type Database, DatabaseError, openDatabase } from '../../src/server/db/database'
import { FolderInUse, lockFolder } from '../../src/server/db/folderLock'
import {
  addReading,
  allRetained,
  type ReadingBatch,
  readingsSince,
  saveMessages,
  spreadAll,
  spreadInbox,
  storeMessages,
} from '../../src/server/db/messageRows'
import { unstorableIn } from '../../src/server/db/storable'
import { allNodes, nodeStatements } from '../../src/server/db/nodeRows'
import { clearOld } from '../../src/server/db/retention'
import { rollUp } from '../../src/server/db/rollUp'
import { guard } from '../../src/server/http/guard'
import { LiveStream } from '../../src/server/live/stream'
import type { Product } from '../../src/server/product'
import { slipTank } from '../support/designs'
import { ownCertificate } from '../support/certificate'
import {
  demoNodes,
  freePort,
  listen,
  login,
  PASSWORDS,
  SLIP_TANK,
  startProduct,
  tempFolder,
  until,
} from '../support/product'

demoNodes.only = ['slip-tank']

const running: Product[] = []
async function start(folder?: string, port?: number): Promise<Product> {
  const product = await startProduct(folder, port)
  running.push(product)
  return product
}
async function stop(product: Product): Promise<void> {
  running.splice(running.indexOf(product), 1)
  await product.stop()
}
afterEach(async () => {
  for (const product of [...running]) await stop(product)
})

const median = (m: 3 | 7 | 9): EditBody => ({ kind: 'condition', signalId: 'slevel', set: { median: m } })
const make = (base: number, body: EditBody) => ({
  id: randomUUID(),
  document: SLIP_TANK,
  base,
  body,
  author: 'test',
  at: new Date().toISOString(),
})
const nodeLogin = (p: Product) => loginIn(p.options.dataFolder)
const loginIn = (folder: string) =>
  (
    JSON.parse(fs.readFileSync(path.join(folder, 'standins', SLIP_TANK, 'secret.json'), 'utf8')) as {
      broker: { name: string; password: string }
    }
  ).broker

describe('edits', () => {
  test('have an order: a stale base is answered with what was missed, the same edit twice is saved once, a refusal saves nothing', async () => {
    const { workshop } = await start()
    const first = make(0, median(3))
    expect(await workshop.edit(first)).toEqual({ kind: 'saved', seq: 1 })
    expect(await workshop.edit(first)).toEqual({ kind: 'saved', seq: 1 })
    const stale = await workshop.edit(make(0, median(9)))
    expect(stale).toMatchObject({
      kind: 'behind',
      seq: 1,
      missed: [{ seq: 1, id: first.id, words: 'median 5 → 3 on L1' }],
    })
    expect(await workshop.edit(make(1, { kind: 'lock', line: 'pumprelay.in', pin: 'D34' }))).toMatchObject({
      kind: 'refused',
      reason: expect.stringMatching(/only reads/),
    })
    const racing = await Promise.all([workshop.edit(make(1, median(7))), workshop.edit(make(1, median(9)))])
    expect(racing.map((r) => r.kind)).toEqual(['saved', 'behind'])
    expect(workshop.get(SLIP_TANK)?.design.signals.slevel?.conditioning.median).toBe(7)
  })

  test('are there after a restart, and after a kill without warning', async () => {
    const folder = tempFolder()
    const product = await start(folder)
    await product.workshop.edit(make(0, median(3)))
    await stop(product)
    // A process that saves edits, says each one, and is killed in the middle of it.
    const child = spawn(process.execPath, ['build/editing-child.mjs', folder, String(await freePort())], {
      stdio: ['ignore', 'pipe', 'inherit'],
    })
    let said = 0
    child.stdout.on('data', (d: Buffer) => {
      said += d
        .toString()
        .split('\n')
        .filter((l) => l.startsWith('saved')).length
    })
    await until(() => said >= 12, 30_000)
    child.kill('SIGKILL')
    await new Promise((r) => child.once('exit', r))
    const again = await start(folder)
    const node = again.workshop.get(SLIP_TANK)
    expect(node?.seq).toBeGreaterThanOrEqual(1 + said)
    expect(node?.seq).toBeLessThanOrEqual(2 + said)
    expect(node?.design.parts.button?.label).toBe(`Button ${(node?.seq ?? 0) - 1}`)
  })
})

describe('the data folder', () => {
  test('is not given to a second process, and is taken over from one that is gone', async () => {
    const folder = tempFolder()
    const product = await start(folder)
    await expect(startProduct(folder)).rejects.toThrow(FolderInUse)
    await stop(product)
    fs.writeFileSync(path.join(folder, 'in-use.json'), JSON.stringify({ pid: 999_999, started: '1' }))
    lockFolder(folder)()
    fs.writeFileSync(path.join(folder, 'in-use.json'), JSON.stringify({ pid: process.pid, started: 'another life' }))
    lockFolder(folder)()
    fs.writeFileSync(path.join(folder, 'in-use.json'), '{half')
    lockFolder(folder)()
  })

  test('holds no broker password in clear', async () => {
    const folder = tempFolder()
    const product = await start(folder)
    await product.ingest.buffer.flush()
    await stop(product)
    const files = fs
      .readdirSync(path.join(folder, 'database'), { recursive: true, withFileTypes: true })
      .filter((f) => f.isFile())
    const all = files.map((f) => fs.readFileSync(path.join(f.parentPath, f.name)))
    expect(all.some((b) => b.includes('outside'))).toBe(true)
    for (const password of Object.values(PASSWORDS)) expect(all.some((b) => b.includes(password))).toBe(false)
  })
})

describe('the broker', () => {
  test('knows its logins: a wrong one is refused and counted; what goes to a foreign topic is dropped, the line stays', async () => {
    const product = await start()
    const troubles = (what: RegExp) => product.ingest.troubles.filter((t) => what.test(t.what))
    await expect(login(product, 'outside', 'wrong')).rejects.toThrow(/Bad username or password|Not authorized/i)
    await expect(login(product, '', '')).rejects.toThrow()
    await until(() => troubles(/^login of “” refused|^login of “outside” refused/).length === 2, 3000)
    const { name, password } = nodeLogin(product)
    const node = await login(product, name, password)
    const outside = await listen(product)
    await node.publishAsync('vn/kiln-vent/level', '1', { qos: 1 })
    await node.publishAsync('vn/slip-tank/pump/set', '1', { qos: 1 })
    await node.publishAsync('vn/slip-tank/level', '401', { qos: 1 })
    await outside.until((h) => h.topic === 'vn/slip-tank/level' && h.text === '401')
    expect(outside.heard.filter((h) => /kiln-vent|set$/.test(h.topic))).toEqual([])
    await until(() => troubles(/may not publish here/).length === 2, 3000)
    const [grant] = await node.subscribeAsync('vn/#').catch(() => [{ qos: 128 }])
    expect(grant?.qos).toBe(128)
    expect(node.connected).toBe(true)
    await outside.end()
  })

  test('gives back what was retained, and says offline for a node that did not come back', async () => {
    const folder = tempFolder()
    const product = await start(folder)
    const { name, password } = nodeLogin(product)
    const node = await login(product, name, password)
    await node.publishAsync('vn/slip-tank/status', '{"is":"online"}', { retain: true, qos: 1 })
    await node.publishAsync('vn/slip-tank/level', '412', { retain: true, qos: 0 })
    await node.publishAsync('vn/slip-tank/level', '413', { retain: true, qos: 0 })
    await until(() => product.workshop.get(SLIP_TANK)?.live.values.slevel?.value === 413, 3000)
    await stop(product)
    const again = await start(folder)
    again.workshop.get(SLIP_TANK)!.design.network.keepAliveS = 2
    const outside = await listen(again)
    expect(await outside.until((h) => h.topic === 'vn/slip-tank/level')).toMatchObject({ text: '413', retain: true })
    await outside.until((h) => h.topic === 'vn/slip-tank/status' && h.text.includes('offline'), 17_000)
    expect(again.workshop.get(SLIP_TANK)?.live.status).toEqual({ is: 'offline' })
    await outside.end()
  })

  test('makes values, unknowns and switches into readings, and counts what makes no sense', async () => {
    const product = await start()
    const { name, password } = nodeLogin(product)
    const node = await login(product, name, password)
    for (const text of ['410', 'null', '411.5']) await node.publishAsync('vn/slip-tank/level', text, { qos: 1 })
    for (const [topic, text] of [
      ['level', 'wet'],
      ['level', '{"a":1}'],
      ['pump', '1'],
      ['nobody', '1'],
      ['health', '{}'],
      ['status', '"x"'],
    ] as const)
      await node.publishAsync(`vn/slip-tank/${topic}`, text, { qos: 1 })
    // What its file does not have does not even come this far.
    await until(() => product.ingest.counts.odd >= 5 && product.ingest.counts.refused >= 1, 3000)
    await product.ingest.buffer.flush()
    expect((await readingsSince(product.db, SLIP_TANK, 'slevel', 60)).map((r) => r.number)).toEqual([410, null, 411.5])
    expect(product.ingest.troubles.map((t) => t.what).join('\n')).toMatch(/not JSON: “wet”[\s\S]*|expected boolean/)
    expect(product.workshop.get(SLIP_TANK)?.live.values.slevel?.value).toBe(411.5)
    await node.endAsync()
  })
})

test('commands and files to a node that is not there fail at once and in words', async () => {
  const product = await start()
  expect(await product.commands.set(SLIP_TANK, 'spump', true)).toEqual({
    kind: 'failed',
    reason: 'slip-tank is not connected',
  })
  expect(await product.revisions.send(SLIP_TANK)).toMatchObject({
    kind: 'failed',
    reason: expect.stringMatching(/not connected: nothing was sent/),
  })
})

describe('requests from elsewhere', () => {
  const ask = (headers: Record<string, string>, method = 'POST') =>
    guard(new Request('http://127.0.0.1:3000/api/nodes', { method, headers }))?.status ?? 200
  const json = { 'content-type': 'application/json' }
  test.each([
    ['our own page', { host: '127.0.0.1:3000', origin: 'http://127.0.0.1:3000', ...json }, 'POST', 200],
    ['a tool on this machine', { host: 'localhost:3000', ...json }, 'POST', 200],
    ['another page', { host: '127.0.0.1:3000', origin: 'http://elsewhere.test', ...json }, 'POST', 403],
    ['a page without an origin of its own', { host: '127.0.0.1:3000', origin: 'null', ...json }, 'POST', 403],
    ['another name for this machine', { host: 'elsewhere.test:3000' }, 'GET', 403],
    ['a form', { host: '127.0.0.1:3000', 'content-type': 'text/plain' }, 'POST', 415],
  ] as const)('%s', (_words, headers, method, status) => expect(ask(headers, method)).toBe(status))
})

test('the live stream gives what was missed, and says when it no longer can', () => {
  const stream = new LiveStream()
  const counts = {
    received: 0,
    refused: 0,
    odd: 0,
    perMinute: 0,
    clients: 0,
    storing: { waiting: 0, setAside: 0, failing: null, storedAt: null },
    held: null,
  }
  for (let i = 0; i < 10; i++) stream.emit({ kind: 'counts', counts })
  const id = stream.lastId
  stream.emit({ kind: 'counts', counts: { ...counts, received: 1 } })
  expect(stream.since(id)?.map((e) => e.event)).toEqual([{ kind: 'counts', counts: { ...counts, received: 1 } }])
  for (let i = 0; i < 5000; i++) stream.emit({ kind: 'counts', counts })
  expect(stream.since(id)).toBeNull()
  expect(stream.since(null)).toBeNull()
  expect(stream.since('other-3')).toBeNull()
})

describe('sessions', () => {
  test('belong to their logins: nobody ends another’s by its client id, and nobody reads who is there', async () => {
    const product = await start()
    const { name, password } = nodeLogin(product)
    const node = await login(product, name, password, 'vn-the-tank')
    let ended = false
    node.on('close', () => {
      ended = true
    })
    const controller = await login(product, 'controller', PASSWORDS.controllerPassword, 'vn-the-tank')
    // Long enough for a broker that let it happen: a message goes round meanwhile.
    const outside = await listen(product)
    await node.publishAsync('vn/slip-tank/status', '{"is":"online"}', { retain: true, qos: 1 })
    await outside.until((h) => h.topic === 'vn/slip-tank/status')
    expect(ended).toBe(false)
    const [grant] = await controller.subscribeAsync('$SYS/#').catch(() => [{ qos: 128 }])
    expect(grant?.qos).toBe(128)
    await Promise.all([node.endAsync(true), controller.endAsync(true), outside.end()])
  })
  test('a second session of a node that ends does not take the first along', async () => {
    const product = await start()
    const { name, password } = nodeLogin(product)
    const first = await login(product, name, password, 'one')
    const second = await login(product, name, password, 'two')
    await until(() => product.link.isHere(SLIP_TANK), 3000)
    await second.endAsync(true)
    await first.publishAsync('vn/slip-tank/level', '1', { qos: 1 })
    expect(product.link.isHere(SLIP_TANK)).toBe(true)
    await first.endAsync(true)
    await until(() => !product.link.isHere(SLIP_TANK), 3000)
  })
})

describe('messages that must not pass', () => {
  test('a retained command is ignored and reported, an oversize or malformed one ends the connection; all are counted', async () => {
    const product = await start()
    const outside = await listen(product)
    const controller = await login(product, 'controller', PASSWORDS.controllerPassword)
    const refused = () => product.ingest.counts.refused
    await controller.publishAsync('vn/slip-tank/pump/set', 'true', { retain: true, qos: 1 })
    await until(() => refused() === 1, 2000)
    expect(product.ingest.troubles[0]).toMatchObject({
      topic: 'vn/slip-tank/pump/set',
      what: expect.stringMatching(/retained command was ignored/),
    })
    const closed = new Promise<void>((r) => controller.once('close', () => r()))
    controller.publish('vn/slip-tank/pump/set', 'x'.repeat(65 * 1024))
    await closed

    const raw = net.connect(product.options.mqttPort, '127.0.0.1')
    raw.on('error', () => undefined)
    raw.write(Buffer.from([0x10, 0xff, 0xff, 0xff, 0xff, 0x7f]))
    await new Promise<void>((r) => raw.once('close', () => r()))
    await until(() => refused() === 3, 2000)
    expect(product.ingest.troubles.map((t) => t.what)).toEqual([
      'a client: a length of more than four bytes',
      'controller: a message of 66583 bytes; at most 65536 are taken',
      'controller: a retained command was ignored',
    ])
    expect(outside.heard.filter((h) => h.topic.endsWith('/set'))).toEqual([])
    await outside.end()
  })

  test('any bytes at all leave the broker standing', async () => {
    const product = await start()
    await fc.assert(
      fc.asyncProperty(fc.uint8Array({ maxLength: 300 }), async (bytes) => {
        await new Promise<void>((done) => {
          const raw = net.connect(product.options.mqttPort, '127.0.0.1', () => raw.end(bytes))
          raw.on('error', () => done())
          raw.on('close', () => done())
          setTimeout(() => raw.destroy(), 60)
        })
      }),
      { numRuns: 60 },
    )
    const { name, password } = nodeLogin(product)
    const node = await login(product, name, password)
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom('level', 'pump', 'press', 'status', 'health', 'config', 'config/done', 'fault', 'td', 'x'),
        fc.oneof(fc.string(), fc.json(), fc.uint8Array()),
        fc.boolean(),
        async (leaf, payload, retain) => {
          await node.publishAsync(
            `vn/slip-tank/${leaf}`,
            typeof payload === 'string' ? payload : Buffer.from(payload),
            { qos: 1, retain },
          )
        },
      ),
      { numRuns: 150 },
    )
    await node.publishAsync('vn/slip-tank/level', '400', { qos: 1 })
    await until(() => product.workshop.get(SLIP_TANK)?.live.values.slevel?.value === 400, 5000)
    await node.endAsync()
  })
})

/**
 * Publishes 0, 1, 2 … every millisecond, each `every`-th with an acknowledgement, to a product of its own process;
 * then `signal` ends it.
 */
async function streamUntil(
  signal: 'SIGKILL' | 'SIGTERM',
  every: number,
): Promise<{ stored: number[]; acknowledged: number[]; sent: { value: number; at: number }[]; endedAt: number }> {
  const folder = tempFolder()
  const port = await freePort()
  const child = spawn(process.execPath, ['build/serving-child.mjs', folder, String(port)], {
    stdio: ['ignore', 'pipe', 'inherit'],
  })
  let said = ''
  child.stdout.on('data', (d: Buffer) => {
    said += d.toString()
  })
  await until(() => said.includes('ready'), 30_000)
  const { name, password } = loginIn(folder)
  const node = await mqtt.connectAsync(`mqtt://127.0.0.1:${port}`, { username: name, password, reconnectPeriod: 0 })
  node.on('error', () => undefined)
  const sent: { value: number; at: number }[] = []
  const acknowledged: number[] = []
  const end = performance.now() + 1000 + Math.random() * 600
  while (performance.now() < end) {
    const value = sent.length
    sent.push({ value, at: performance.now() })
    if (value % every === every - 1)
      node.publishAsync('vn/slip-tank/level', String(value), { qos: 1 }).then(
        () => void acknowledged.push(value),
        () => undefined,
      )
    else node.publish('vn/slip-tank/level', String(value))
    await new Promise((r) => setTimeout(r, 1))
  }
  const endedAt = performance.now()
  const known = [...acknowledged]
  // Long enough to arrive, too short to be written in any case.
  if (signal === 'SIGTERM') await new Promise((r) => setTimeout(r, 50))
  child.kill(signal)
  await new Promise((r) => child.once('exit', r))
  node.end(true)
  const { db } = await start(folder)
  const storedNow = async () => {
    await spreadAll(db)
    const rows = await db.query(z.object({ number: z.number() }), 'select number from readings order by number')
    return rows.map((r) => r.number)
  }
  // What the broker has acknowledged and not handed over yet comes from it now.
  let stored = await storedNow()
  await until(async () => {
    stored = await storedNow()
    return known.every((value) => stored.includes(value))
  }, 15_000).catch(() => undefined)
  return { stored, acknowledged: known, sent, endedAt }
}

/** A quarter second until readings are written, and what a busy machine adds. */
const UNFLUSHED_MS = 250 + 500

test.each([
  ['none acknowledged', 1e9],
  ['every tenth acknowledged', 10],
])(
  'readings through a kill, %s: what was acknowledged is there, of the rest at most the last quarter second is gone',
  async (_, every) => {
    for (let kill = 0; kill < 2; kill++) {
      const { stored, acknowledged, sent, endedAt } = await streamUntil('SIGKILL', every)
      expect(new Set(stored).size, 'none twice').toBe(stored.length)
      const here = new Set(stored)
      expect(acknowledged.filter((value) => !here.has(value))).toEqual([])
      expect(sent.filter((s) => s.at < endedAt - UNFLUSHED_MS && !here.has(s.value))).toEqual([])
    }
  },
  120_000,
)

test('a clean stop keeps every reading that has come', async () => {
  const { stored, sent } = await streamUntil('SIGTERM', 1e9)
  expect(stored).toEqual(sent.slice(0, stored.length).map((s) => s.value))
  // What was still on the line when it ended has not come.
  expect(sent.length - stored.length).toBeLessThan(20)
}, 60_000)

test('readings are summed to minutes and hours, once, and raw rows go when they are old', async () => {
  const { db } = await start()
  const base = Date.UTC(2026, 10, 1, 10, 0, 0)
  // 10:00 … 11:59, one reading each ten seconds: the minute's mean is 25 + 60·m, known without the database.
  const batch: ReadingBatch = { node: SLIP_TANK, signal: 'slevel', ms: [], numbers: [], words: null }
  for (let i = 0; i < 720; i++) addReading(batch, base + i * 10_000, i * 10, null)
  addReading(batch, base + 5, null, null)
  await saveMessages(db, [], [batch])
  const sum = z.object({
    at: z.date(),
    n: z.number(),
    total: z.number(),
    low: z.number(),
    mean: z.number(),
    high: z.number(),
  })
  const now = new Date(base + 2 * 3600_000)
  for (let again = 0; again < 2; again++) {
    await rollUp(db, now)
    const minutes = await db.query(sum, 'select at, n, total, low, mean, high from readings_minute order by at')
    expect(minutes).toHaveLength(120)
    expect(minutes[0]).toMatchObject({ n: 6, total: 7, low: 0, mean: 25, high: 50 })
    expect(minutes[119]).toMatchObject({ n: 6, mean: 25 + 60 * 119 })
    const hours = await db.query(
      sum,
      "select at, n, total, low, mean, high from readings_hour where signal_id = 'slevel' order by at",
    )
    expect(hours.map((h) => [h.n, h.low, h.mean, h.high])).toEqual([
      [360, 0, 1795, 3590],
      [360, 3600, 5395, 7190],
    ])
  }
  expect(await clearOld(db, new Date(base + 15 * 86_400_000))).toEqual({ removed: 721, marked: 0, held: null })
  expect(await db.query(z.object({ n: z.number() }), 'select count(*)::int as n from readings')).toEqual([{ n: 0 }])
  // Beside what the demo's nodes told before.
  const kept = "select count(*)::int as n from readings_hour where signal_id = 'slevel'"
  expect(await db.query(z.object({ n: z.number() }), kept)).toEqual([{ n: 2 }])
})

describe('a clock that jumps', () => {
  const DAY = 86_400_000
  const rows = async (db: Database) =>
    (await db.query(z.object({ n: z.number() }), 'select count(*)::int as n from readings'))[0]?.n
  /** A month of readings, one each two minutes, as they came in. */
  async function month(db: Database, now: number): Promise<void> {
    const batch: ReadingBatch = { node: SLIP_TANK, signal: 'slevel', ms: [], numbers: [], words: null }
    for (let at = now - 13 * DAY; at <= now; at += 30_000) addReading(batch, at, 1, null)
    await saveMessages(db, [], [batch])
    await rollUp(db, new Date(now))
  }

  test('ahead by years takes nothing away without a word, and what it misdated is marked and never the latest', async () => {
    const { db } = await start()
    const now = Date.now()
    await month(db, now)
    const before = await rows(db)
    const ahead = now + 5000 * DAY
    await saveMessages(db, [], [{ node: SLIP_TANK, signal: 'slevel', ms: [ahead], numbers: [99], words: null }])
    await rollUp(db, new Date(ahead + 120_000))
    const cleared = await clearOld(db, new Date(ahead + 120_000))
    expect(cleared).toMatchObject({ removed: 0, held: { rows: before } })
    expect(cleared.held?.usualADay).toBeGreaterThan(2500)
    expect(await rows(db)).toBe((before ?? 0) + 1)
    // Back again: sums go on, and the misdated reading is marked.
    expect(await clearOld(db, new Date(now + 60_000))).toEqual({ removed: 0, marked: 1, held: null })
    expect((await readingsSince(db, SLIP_TANK, 'slevel', 600)).map((r) => r.number)).not.toContain(99)
    await saveMessages(db, [], [{ node: SLIP_TANK, signal: 'slevel', ms: [now + 61_000], numbers: [7], words: null }])
    await rollUp(db, new Date(now + 180_000))
    const [minute] = await db.query(
      z.object({ high: z.number() }),
      'select high from readings_minute where at <= $1::timestamptz order by at desc limit 1',
      [new Date(now + 120_000).toISOString()],
    )
    expect(minute?.high).toBe(7)
    // With somebody's word they do go.
    expect(await clearOld(db, new Date(ahead), true)).toMatchObject({ held: null })
  })

  test('behind by years marks nothing, and rows it misdated go in the order they came', async () => {
    const { db } = await start()
    const now = Date.now()
    await month(db, now)
    expect(await clearOld(db, new Date(now - 3000 * DAY))).toEqual({ removed: 0, marked: 0, held: null })
    await saveMessages(
      db,
      [],
      [{ node: SLIP_TANK, signal: 'slevel', ms: [now - 3000 * DAY], numbers: [5], words: null }],
    )
    await spreadAll(db)
    // It bears an old time, but it has just come.
    expect((await clearOld(db, new Date(now))).removed).toBe(0)
    expect((await clearOld(db, new Date(now + 2 * DAY))).removed).toBeGreaterThan(2000)
    expect(
      await db.query(z.object({ number: z.number() }), 'select number from readings where number = 5'),
    ).toHaveLength(1)
  })
})

test('a signal that cannot be summed does not stop the others', async () => {
  const { db } = await start()
  const base = Date.UTC(2026, 10, 1, 10)
  await saveMessages(
    db,
    [],
    ['slevel', 'sother'].map((signal) => ({
      node: SLIP_TANK,
      signal,
      ms: [base, base + 1],
      numbers: [1, 2],
      words: null,
    })),
  )
  await spreadAll(db)
  // A rule of the house that one signal breaks, as a damaged row would.
  await db.run("alter table readings_minute add constraint none_of_it check (signal_id <> 'sother')")
  const bad = await rollUp(db, new Date(base + 3_600_000))
  expect(bad).toMatchObject([{ node: SLIP_TANK, signal: 'sother', why: expect.stringMatching(/none_of_it/) }])
  const sums = await db.query(
    z.object({ signal_id: z.string(), n: z.number() }),
    'select signal_id, n from readings_minute',
  )
  expect(sums).toEqual([{ signal_id: 'slevel', n: 2 }])
})

test('a value one entity has that cannot be read hides none of the others', async () => {
  const product = await start()
  const controller = await login(product, 'controller', PASSWORDS.controllerPassword)
  const entity = {
    id: 'a',
    thing: 't',
    name: 'n',
    area: '',
    kind: 'k',
    unit: null,
    value: 1,
    at: null,
    available: true,
    command: null,
  }
  await controller.publishAsync(
    'standin/controller/entities',
    JSON.stringify([entity, { ...entity, id: 7 }, { ...entity, id: 'b' }]),
    { qos: 1 },
  )
  await until(() => product.snapshot().entities.length === 2, 3000)
  expect(product.snapshot().entities.map((e) => e.id)).toEqual(['a', 'b'])
  expect(product.snapshot().troubles[0]?.what).toMatch(/entity 1 of 3 cannot be read: id/)
  await controller.endAsync()
})

test('what is refused again and again is counted, not kept', async () => {
  const product = await start()
  const before = JSON.stringify(product.snapshot()).length
  for (let i = 0; i < 3000; i++) product.ingest.refused(`vn/${'x'.repeat(60_000)}`, `somebody: ${'y'.repeat(9000)}`)
  expect(product.snapshot().troubles.filter((t) => t.times === 3000)).toHaveLength(1)
  expect(JSON.stringify(product.snapshot()).length - before).toBeLessThan(2000)
  for (let i = 0; i < 3000; i++)
    product.ingest.refused(`vn/${i}${'x'.repeat(60_000)}`, `somebody ${i}: ${'y'.repeat(9000)}`)
  expect(JSON.stringify(product.snapshot()).length - before).toBeLessThan(100 * 800)
})

test("the listener with the user's certificate takes the same logins", async () => {
  const { certFile, keyFile } = ownCertificate()
  const port = await freePort()
  const product = await startProduct(undefined, undefined, { port, certFile, keyFile })
  running.push(product)
  const connect = (password: string) =>
    mqtt.connectAsync(`mqtts://127.0.0.1:${port}`, {
      username: 'outside',
      password,
      ca: fs.readFileSync(certFile),
      reconnectPeriod: 0,
    })
  const client = await connect(PASSWORDS.outsidePassword)
  expect((await client.subscribeAsync('vn/#'))[0]?.qos).toBe(0)
  await client.endAsync()
  await expect(connect('wrong')).rejects.toThrow()
})

test('readings that wait in a folder of an earlier release are read as they were meant, whichever way it wrote their moments', async () => {
  const folder = tempFolder()
  const before = path.join(folder, 'migrations-before')
  fs.mkdirSync(before)
  for (const name of fs.readdirSync('src/server/db/migrations').filter((n) => n < '007'))
    fs.copyFileSync(`src/server/db/migrations/${name}`, path.join(before, name))
  const places = { ...placesIn(path.resolve('.'), path.join(folder, 'data')), template: null }
  const old = await openDatabase({ ...places, migrationsFolder: before })
  await old.transaction(nodeStatements(slipTank(), 'test'))
  const moment = Date.UTC(2026, 10, 1, 10)
  const wait = (ms: string, numbers: string) =>
    old.run('insert into readings_inbox (node_id, signal_id, places, ms, numbers) values ($1, $2, 3, $3, $4)', [
      SLIP_TANK,
      'slevel',
      ms,
      numbers,
    ])
  await wait(`${moment},${moment},${moment + 1250}`, '1,,3')
  await wait(`${moment + 2000}+0,7,500`, '4,5,6')
  await old.close()
  const now = await openDatabase(places)
  await spreadAll(now)
  const rows = await now.query(
    z.object({ at: z.date(), number: z.number().nullable() }),
    'select at, number from readings order by at, number nulls last',
  )
  expect(rows.map((r) => [r.at.getTime() - moment, r.number])).toEqual([
    [0, 1],
    [0, null],
    [1250, 3],
    [2000, 4],
    [2007, 5],
    [2500, 6],
  ])
  await now.close()
})

test('a folder of the release before is brought up to date with everything in it', async () => {
  const folder = tempFolder()
  const before = path.join(folder, 'migrations-before')
  fs.mkdirSync(before)
  fs.copyFileSync('src/server/db/migrations/001-start.sql', path.join(before, '001-start.sql'))
  const places = { ...placesIn(path.resolve('.'), path.join(folder, 'data')), template: null }
  const old = await openDatabase({ ...places, migrationsFolder: before })
  await old.transaction(nodeStatements(slipTank(), 'test'))
  await old.close()
  const now = await openDatabase({ ...placesIn(path.resolve('.'), path.join(folder, 'data')), template: null })
  expect((await allNodes(now)).map((n) => n.design)).toEqual([slipTank()])
  await rollUp(now, new Date())
  await now.close()
})

test('a renamed node keeps its old topics until it has acknowledged its new name, also over a restart; then they are cleared', async () => {
  const folder = tempFolder()
  const product = await start(folder)
  expect(
    (await product.workshop.edit(make(0, { kind: 'identify', name: 'Slip', slug: 'slip', place: 'clayyard' }))).kind,
  ).toBe('saved')
  expect(product.workshop.slugsOf(SLIP_TANK)).toEqual(['slip', 'slip-tank'])
  await stop(product)
  const again = await start(folder)
  expect(again.workshop.slugsOf(SLIP_TANK)).toEqual(['slip', 'slip-tank'])
  const { name, password } = nodeLogin(again)
  const node = await login(again, name, password)
  await node.publishAsync('vn/slip-tank/level', '410', { retain: true, qos: 1 })
  await until(() => again.workshop.get(SLIP_TANK)?.live.values.slevel?.value === 410, 5000)
  await node.subscribeAsync('vn/slip-tank/+/set', { qos: 1 })
  node.on('message', (_topic, payload) => {
    const { id } = JSON.parse(payload.toString().split('\n')[0] ?? '{}') as { id: string }
    node.publish('vn/slip/config/done', JSON.stringify({ id, result: 'done' }), { qos: 1 })
  })
  expect(await again.revisions.send(SLIP_TANK)).toMatchObject({ kind: 'running' })
  expect(again.workshop.slugsOf(SLIP_TANK)).toEqual(['slip'])
  const outside = await listen(again)
  await new Promise((r) => setTimeout(r, 300))
  expect(outside.heard.filter((h) => h.topic.startsWith('vn/slip-tank/'))).toEqual([])
  await outside.end()
  await node.endAsync(true)
})

async function backupTo(product: Product, file: string): Promise<void> {
  const taken = await product.backups.take()
  if (!taken.ok) throw new Error(taken.reason)
  await pipeline(taken.archive, fs.createWriteStream(file))
}

test('a backup taken while running becomes a new folder with everything in it, and no folder is overwritten', async () => {
  const product = await start()
  await product.workshop.edit(make(0, median(3)))
  const file = path.join(tempFolder(), 'all.tar.gz')
  await backupTo(product, file)
  await product.workshop.edit(make(1, median(9)))
  const folder = tempFolder()
  const vivid = (...args: string[]) =>
    execFileSync('node', ['build/vivid.mjs', ...args], { encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'] })
  expect(vivid('restore', file, folder)).toMatch(/1 nodes, 1 edits/)
  expect(() => vivid('restore', file, folder)).toThrow(/holds a database already/)
  const garbage = path.join(folder, 'garbage')
  fs.writeFileSync(garbage, 'not a backup')
  expect(() => vivid('restore', garbage, tempFolder())).toThrow(/no backup of this product, or is damaged/)
  const restored = await start(folder)
  expect(restored.workshop.get(SLIP_TANK)).toMatchObject({
    seq: 1,
    design: { signals: { slevel: { conditioning: { median: 3 } } } },
  })
})

test('a folder that cannot be started says why and is left free for whoever mends it', async () => {
  const folder = tempFolder()
  await stop(await start(folder))
  const places = placesIn(path.resolve('.'), folder)
  const spoil = await openDatabase(places)
  await spoil.run("update nodes set design = jsonb_set(design::jsonb, '{format}', '\"nothing\"')")
  await spoil.close()
  await expect(start(folder)).rejects.toThrow(/vivid-node\/design/)
  const mend = await openDatabase(places)
  await mend.run("update nodes set design = jsonb_set(design::jsonb, '{format}', '\"vivid-node/design\"')")
  await mend.close()
  expect((await start(folder)).workshop.all()).toHaveLength(1)
})

test('readings wait in the inbox as they came and are spread in order, exactly, a portion at a time; those of a removed node go with it', async () => {
  const folder = tempFolder()
  const db = await openDatabase(placesIn(path.resolve('.'), path.join(folder, 'data')))
  await db.transaction(nodeStatements(slipTank(), 'test'))
  const values = Array.from({ length: 5000 }, (_, i) => (i % 97 === 0 ? null : (i - 2500) / 3))
  const batch = (
    node: string,
    signal: string,
    numbers: (number | null)[],
    words: (string | null)[] | null,
  ): ReadingBatch => ({
    node,
    signal,
    ms: numbers.map((_, i) => 1_795_600_000_000 + Math.floor(i / 4)),
    numbers,
    words,
  })
  await saveMessages(
    db,
    [],
    [
      batch(SLIP_TANK, 'slevel', values, null),
      batch(SLIP_TANK, 'spress', [null, null], ['single', 'say "two", {three}\n']),
      batch('00000000-0000-4000-8000-000000000000', 'slevel', [1, 2], null),
    ],
  )
  const count = async (table: string) =>
    (await db.query(z.object({ n: z.number() }), `select count(*)::int as n from ${table}`))[0]?.n
  expect(await count('readings')).toBe(0)
  // Five thousand are three portions; then the words and the stranger.
  expect(await count('readings_inbox')).toBe(5)
  expect(await spreadInbox(db)).toBe(true)
  expect(await count('readings')).toBe(2000)
  await spreadAll(db)
  expect([await count('readings'), await count('readings_inbox')]).toEqual([5002, 0])
  const rows = await db.query(
    z.object({ number: z.number().nullable(), word: z.string().nullable() }),
    'select number, word from readings order by id',
  )
  expect(rows.slice(0, 5000).map((r) => r.number)).toEqual(values)
  expect(rows.slice(5000).map((r) => r.word)).toEqual(['single', 'say "two", {three}\n'])
  await db.close()
})

describe('what no database keeps', () => {
  test('an escaped zero character in a payload is stored as a mark, others are acknowledged meanwhile, and health stays true', async () => {
    const product = await start()
    const press = (text: string) =>
      product.ingest.take({
        topic: 'vn/slip-tank/press',
        payload: Buffer.from(text),
        qos: 1,
        retain: false,
        from: 'slip-tank',
      })
    await press('"sin\\u0000gle"')
    await press('"\\ud800"')
    await press('"double"')
    await spreadAll(product.db)
    const words = await product.db.query(
      z.object({ word: z.string() }),
      "select word from readings where signal_id = 'spress' order by id desc limit 3",
    )
    expect(words.map((w) => w.word)).toEqual(['double', '\uFFFD', 'sin\uFFFDgle'])
    expect(product.ingest.counts.storing).toMatchObject({ setAside: 0, failing: null })
    // A retained topic with a zero character is neither kept nor in anybody's way.
    await product.ingest.take({
      topic: 'vn/slip-tank/le\0vel',
      payload: Buffer.from('1'),
      qos: 1,
      retain: true,
      from: 'slip-tank',
    })
    await press('"single"')
    expect(product.ingest.counts.storing.failing).toBeNull()
  })

  test('one bad row among thousands is set aside and told; the rest is stored, in order', async () => {
    const product = await start()
    const values: ReadingBatch = { node: SLIP_TANK, signal: 'spress', ms: [], numbers: [], words: null }
    for (let i = 0; i < 5000; i++) addReading(values, 1_700_000_000_000 + i, null, i === 3210 ? 'ba\0d' : `w${i}`)
    const stored = await storeMessages(
      product.db,
      [
        { topic: 'vn/x/\0', payload: Buffer.from('1'), qos: 0 },
        { topic: 'vn/x/good', payload: Buffer.from('1'), qos: 0 },
      ],
      [values],
    )
    expect(stored.left).toBeNull()
    expect(stored.aside.map((a) => a.what)).toEqual(['vn/x/\0', `${SLIP_TANK} spress`])
    await spreadAll(product.db)
    const rows = await product.db.query(
      z.object({ word: z.string() }),
      "select word from readings where signal_id = 'spress' and at < to_timestamp(1700000010) order by at",
    )
    expect(rows.map((r) => r.word)).toEqual(
      Array.from({ length: 5000 }, (_, i) => `w${i}`).filter((w) => w !== 'w3210'),
    )
    expect((await allRetained(product.db)).map((r) => r.topic)).toContain('vn/x/good')
  })

  test('a database in trouble gives everything back; nothing is set aside for that', async () => {
    const broken: Database = {
      ...(await start()).db,
      transaction: () => Promise.reject(new DatabaseError('could not extend file: no space left', '53100')),
    }
    const batch: ReadingBatch = { node: SLIP_TANK, signal: 'slevel', ms: [1, 2], numbers: [1, 2], words: null }
    expect(await storeMessages(broken, [], [batch])).toMatchObject({
      aside: [],
      left: { readings: [batch], error: { message: expect.stringMatching(/no space left/) } },
    })
  })

  test('±1e308 is more than any part reads: unknown at the border, and harmless to the sums where it stands already', async () => {
    const product = await start()
    await product.ingest.take({
      topic: 'vn/slip-tank/level',
      payload: Buffer.from('1e308'),
      qos: 1,
      retain: false,
      from: 'slip-tank',
    })
    expect(product.workshop.get(SLIP_TANK)?.live.values.slevel?.value ?? null).toBeNull()
    const old: ReadingBatch = { node: SLIP_TANK, signal: 'slevel', ms: [], numbers: [], words: null }
    const base = Date.UTC(2026, 9, 1, 10)
    for (const [i, v] of [1.7e308, 1.7e308, -1.7e308, 5, 7].entries()) addReading(old, base + i * 1000, v, null)
    await saveMessages(product.db, [], [old])
    await rollUp(product.db, new Date(base + 3 * 3600_000))
    const [minute] = await product.db.query(
      z.object({ mean: z.number(), total: z.number() }),
      "select mean, total from readings_minute where signal_id = 'slevel' and at < '2026-10-02'",
    )
    expect(minute).toEqual({ mean: 6, total: 5 })
  })
})

test('colder than absolute zero is unknown, with a word; a kiln and a winter are not', async () => {
  demoNodes.only = ['kiln-vent']
  const product = await start()
  const kiln = '7d21e3b8-95c4-4e6a-8f12-6b0a3c4d9e15'
  const said = async (payload: string) => {
    const message = { topic: 'vn/kiln-vent/kiln-room', qos: 1 as const, retain: false, from: 'kiln-vent' }
    await product.ingest.take({ ...message, payload: Buffer.from(payload) })
    return product.workshop.get(kiln)?.live.values.sroom?.value
  }
  // 0 K is −273.15 °C; cone 10 is 1305 °C, the coldest winter measured −89.2 °C.
  expect([await said('-273.16'), await said('-89.2'), await said('1305'), await said('1e6')]).toEqual([
    null,
    -89.2,
    1305,
    null,
  ])
  expect(product.ingest.troubles.map((t) => t.what)).toEqual([
    expect.stringMatching(/^1e6 °C is more than any part reads: taken as unknown/),
    expect.stringMatching(/^-273.16 °C is less than any part reads/),
  ])
  await product.ingest.buffer.flush()
  expect((await readingsSince(product.db, kiln, 'sroom', 60)).map((r) => r.number)).toEqual([null, -89.2, 1305, null])
})

test('a request with a zero character or half a pair says so; the plain letters of one are let through', () => {
  expect([{ a: 'x\0' }, { a: ['\ud800'] }, { a: '\\u0000' }, { a: 'ok 🙂' }].map(unstorableIn)).toEqual([
    'a zero character',
    'half of a character pair',
    null,
    null,
  ])
})

import fs from 'node:fs'
import path from 'node:path'
import { randomUUID } from 'node:crypto'
import { strFromU8, unzipSync } from 'fflate'
import { afterEach, describe, expect, test } from 'vitest'
import { z } from 'zod'
import type { EditBody } from '../../src/core/edits/edit'
import { revisionOf } from '../../src/server/db/revisionRows'
import { Product } from '../../src/server/product'
import { after, slipTank } from '../support/designs'
import { demoNodes, freePort, listen, login, SLIP_TANK, startProduct, tempFolder, until } from '../support/product'

demoNodes.only = ['slip-tank']

const running = new Set<Product>()
async function begun(product: Product): Promise<Product> {
  running.add(product)
  return product
}
/** A shop of one's own: no stand-ins, nothing kept that nobody entered. */
const own = async (dataFolder = tempFolder()) =>
  begun(
    await Product.start({
      project: process.cwd(),
      dataFolder,
      host: '127.0.0.1',
      mqttPort: await freePort(),
      tls: null,
      brokerEnds: true,
      guest: null,
    }),
  )
async function stop(product: Product): Promise<void> {
  running.delete(product)
  await product.stop()
}
afterEach(async () => {
  for (const p of running) await stop(p)
})
const edit = (product: Product, body: EditBody, id = SLIP_TANK) =>
  product.workshop.edit({
    id: randomUUID(),
    document: id,
    base: product.workshop.get(id)?.seq ?? 0,
    author: '',
    at: new Date().toISOString(),
    body,
  })
const secretIn = (zip: Uint8Array) =>
  JSON.parse(strFromU8(unzipSync(zip)['board/secret.json'] ?? new Uint8Array())) as {
    broker: { name: string; password: string }
    networks: Record<string, { name: string; password: string }[]>
    key: string
  }

describe('passwords of networks', () => {
  test('are nowhere in clear: not on disk, not in what pages get; they open again after a restart, and not with another key', async () => {
    const folder = tempFolder()
    const product = await own(folder)
    await product.workshop.add(slipTank(), 'test')
    expect(await product.credentials.change('house', 'cone-six-oxidation')).toBeNull()
    expect(await product.credentials.change('house', 'cone-six-oxidation')).toMatch(/already kept/)
    expect(await product.credentials.change('shed', 'cone-six-oxidation')).toMatch(/no network “shed”/)
    expect(JSON.stringify(product.snapshot())).not.toContain('cone-six')
    const copy = path.join(tempFolder(), 'copy')
    await product.db.copyTo(copy)
    const files = fs.readdirSync(copy, { recursive: true, withFileTypes: true }).filter((f) => f.isFile())
    expect(files.length).toBeGreaterThan(500)
    expect(files.some((f) => fs.readFileSync(path.join(f.parentPath, f.name)).includes('cone-six'))).toBe(false)
    const everything = await product.db.query(
      z.object({ text: z.string() }),
      'select sealed as text from credentials union all select value::text from settings union all select what from logbook',
    )
    expect(everything.some((r) => r.text.includes('cone-six'))).toBe(false)
    await stop(product)
    const again = await own(folder)
    expect(again.credentials.wayIn('house')).toEqual({ name: 'house', password: 'cone-six-oxidation' })
    await stop(again)
    // The key is lost: the shop still starts, says so, and takes the password anew.
    fs.rmSync(`${folder}.key`)
    const lost = await own(folder)
    expect(lost.credentials.wayIn('house')).toBeNull()
    expect(lost.credentials.states()[0]).toMatchObject({
      known: false,
      nodes: [{ state: 'unknown', reason: expect.stringMatching(/cannot be opened with this key/) }],
    })
    expect(await lost.credentials.change('house', 'cone-six-oxidation')).toBeNull()
    expect(lost.credentials.wayIn('house')?.password).toBe('cone-six-oxidation')
  })
})

describe('an install bundle with passwords', () => {
  test('asks for the password first; then its login lets in, the one of an earlier bundle no more, and the node counts as having it', async () => {
    const product = await own()
    await product.workshop.add(slipTank(), 'test')
    expect(await product.bundles.make(SLIP_TANK, true)).toMatchObject({
      ok: false,
      reason: expect.stringMatching(/cannot reach the broker at 127\.0\.0\.1.*VIVID_HOST/),
    })
    product.options.reachedAs = '192.0.2.7'
    expect(await product.bundles.make(SLIP_TANK, true)).toMatchObject({
      ok: false,
      reason: expect.stringMatching(/No password is kept for network “house”/),
    })
    await product.credentials.change('house', 'cone-six-oxidation')
    const [first, second] = [await product.bundles.make(SLIP_TANK, true), await product.bundles.make(SLIP_TANK, true)]
    if (!first.ok || !second.ok) throw new Error('no bundle')
    expect([first.name, second.name]).toEqual(['slip-tank-r1-with-passwords.zip', 'slip-tank-r2-with-passwords.zip'])
    const [old, now] = [secretIn(first.zip), secretIn(second.zip)]
    expect(now.networks).toEqual({ house: [{ name: 'house', password: 'cone-six-oxidation' }] })
    expect(now.key).toBe(old.key)
    await expect(login(product, old.broker.name, old.broker.password)).rejects.toThrow()
    const node = await login(product, now.broker.name, now.broker.password)
    await node.endAsync(true)
    expect(product.credentials.states()[0]?.nodes[0]).toMatchObject({ state: 'carried', has: true })
    // The logins table holds hashes, the key table a sealed key.
    const kept = await product.db.query(
      z.object({ text: z.string() }),
      'select hash || salt as text from logins union all select sealed from node_keys',
    )
    expect(kept.some((r) => r.text.includes(now.broker.password) || r.text.includes(now.key))).toBe(false)
  })
})

describe('a dead board', () => {
  test('gives its place, name, key and login to another; the one given up for dead is cut off, and it is in the logbook', async () => {
    const product = await own()
    await product.workshop.add(slipTank(), 'test')
    product.options.reachedAs = '192.0.2.7'
    await product.credentials.change('house', 'cone-six-oxidation')
    const first = await product.bundles.make(SLIP_TANK, true)
    if (!first.ok) throw new Error(first.reason)
    const old = secretIn(first.zip)
    const dying = await login(product, old.broker.name, old.broker.password)
    let out = false
    dying.on('close', () => (out = true))
    // Renamed in between: the login keeps the name it began with, and nobody else gets it.
    expect(await edit(product, { kind: 'identify', name: 'slip', slug: 'slip', place: null })).toMatchObject({
      kind: 'saved',
    })
    const second = await product.bundles.make(SLIP_TANK, true)
    if (!second.ok) throw new Error(second.reason)
    await product.bundles.replaced(SLIP_TANK, 'bench hand', 'fell into the slip')
    const now = secretIn(second.zip)
    expect([now.broker.name, now.key]).toEqual([old.broker.name, old.key])
    expect(now.broker.password).not.toBe(old.broker.password)
    await until(() => out, 4000)
    dying.end(true)
    await expect(login(product, old.broker.name, old.broker.password)).rejects.toThrow()
    await (await login(product, now.broker.name, now.broker.password)).endAsync(true)
    expect(product.logins.nameFor({ id: 'another', slug: 'slip-tank' })).toBe('node-slip-tank-2')
    const said = await product.db.query(
      z.object({ what: z.string() }),
      'select what from logbook order by at desc limit 3',
    )
    expect(said.map((r) => r.what).join()).toMatch(/another board in the place of the dead one; the old one: fell into/)
  })

  test('a shop restored without its key says which nodes must be visited; with the key it works', async () => {
    const folder = tempFolder()
    const product = await own(folder)
    await product.workshop.add(slipTank(), 'test')
    product.options.reachedAs = '192.0.2.7'
    await product.credentials.change('house', 'cone-six-oxidation')
    const made = await product.bundles.make(SLIP_TANK, true)
    if (!made.ok) throw new Error(made.reason)
    expect(product.credentials.states()[0]?.nodes[0]).toMatchObject({ keyless: false })
    await stop(product)
    const key = `${folder}.key`
    fs.renameSync(key, `${key}.away`)
    const bare = await own(folder)
    expect(
      bare.credentials
        .states()[0]
        ?.nodes.filter((n) => n.keyless)
        .map((n) => n.id),
    ).toEqual([SLIP_TANK])
    // It runs on with what it has, and a bundle gives it a key again.
    const { broker } = secretIn(made.zip)
    await (await login(bare, broker.name, broker.password)).endAsync(true)
    await stop(bare)
    fs.rmSync(key)
    fs.renameSync(`${key}.away`, key)
    const again = await own(folder)
    expect(again.credentials.states()[0]?.nodes.some((n) => n.keyless)).toBe(false)
  })
})

describe('sealed messages', () => {
  test('only the product sends them, only their node hears them, and the ledger shows a word', async () => {
    const product = await begun(await startProduct())
    const outside = await listen(product)
    const controller = await login(product, 'controller', 'controller-pass')
    const refused = product.ingest.counts.refused
    // Refused, its connection is closed: no answer comes.
    controller.publish('vn/slip-tank/vault/set', 'x', { qos: 1 })
    controller.on('error', () => undefined)
    await until(() => product.ingest.counts.refused > refused, 4000)
    await product.link.publish('vn/slip-tank/vault/set', 'c2VhbGVk', false)
    await product.link.publish('vn/time', '5', false)
    await outside.until((h) => h.topic === 'vn/time' && h.text === '5')
    expect(outside.heard.some((h) => h.topic.endsWith('/vault/set'))).toBe(false)
    expect(
      product.ingest.ledger
        .since(0)
        .filter((r) => r.topic.endsWith('/vault/set') && r.mark !== 'refused')
        .map((r) => r.payload),
    ).toEqual(['sealed'])
    await controller.endAsync(true)
    await outside.end()
  })
})

describe('revisions', () => {
  /** A node that answers as the test says, on the real broker. */
  async function answering(product: Product, result: () => string | null) {
    product.options.reachedAs = '192.0.2.7'
    const made = await product.bundles.make(SLIP_TANK, true)
    if (!made.ok) throw new Error(made.reason)
    const {
      broker: { name, password },
    } = secretIn(made.zip)
    const client = await login(product, name, password)
    const files: { revision: number; text: string }[] = []
    await client.subscribeAsync('vn/slip-tank/+/set', { qos: 1 })
    client.on('message', (_topic, payload) => {
      const [header = '{}', text = ''] = payload.toString().split('\n')
      const { id, revision, hash } = JSON.parse(header) as { id: string; revision: number; hash: string }
      files.push({ revision, text })
      const says = result()
      if (says === null) return
      if (says === 'done')
        client.publish('vn/slip-tank/config', JSON.stringify({ revision, hash }), { qos: 1, retain: true })
      client.publish(
        'vn/slip-tank/config/done',
        JSON.stringify({ id, result: says, ...(says === 'done' ? {} : { reason: 'of a test' }) }),
        { qos: 1 },
      )
    })
    return { client, files }
  }

  test('run, are taken back by the node, and run again under a new number; the design each came from is kept', async () => {
    const product = await own()
    await product.workshop.add(slipTank(), 'test')
    await product.credentials.change('house', 'cone-six-oxidation')
    let says: string | null = 'done'
    const { client, files } = await answering(product, () => says)
    expect(await product.revisions.send(SLIP_TANK)).toMatchObject({ kind: 'running', revision: 2 })
    await edit(product, { kind: 'condition', signalId: 'slevel', set: { median: 9 } })
    says = 'returned'
    expect(await product.revisions.send(SLIP_TANK)).toMatchObject({
      kind: 'failed',
      revision: 3,
      reason: expect.stringMatching(/of a test.*went back to the file before/),
    })
    says = 'done'
    const again = await product.revisions.sendAgain(SLIP_TANK, 2)
    expect(again).toMatchObject({ kind: 'running', revision: 4 })
    const medians = files.map(
      (f) =>
        (JSON.parse(f.text) as { signals: { slug: string; chain?: { median?: number } }[] }).signals.find(
          (s) => s.slug === 'level',
        )?.chain?.median,
    )
    expect(medians).toEqual([5, 9, 5])
    expect((await revisionOf(product.db, SLIP_TANK, 3))?.design?.signals.slevel?.conditioning.median).toBe(9)
    expect((await revisionOf(product.db, SLIP_TANK, 4))?.design?.signals.slevel?.conditioning.median).toBe(5)
    // The design itself has not moved.
    expect(product.workshop.get(SLIP_TANK)?.design.signals.slevel?.conditioning.median).toBe(9)
    expect(await product.revisions.sendAgain(SLIP_TANK, 99)).toBeNull()
    await client.endAsync(true)
  })

  test('one at a time: a second one while the first is on its way is refused, not mixed with it', async () => {
    const product = await own()
    await product.workshop.add(slipTank(), 'test')
    await product.credentials.change('house', 'cone-six-oxidation')
    const { client, files } = await answering(product, () => null)
    const first = product.revisions.send(SLIP_TANK)
    await until(() => files.length === 1, 5000)
    expect(product.workshop.get(SLIP_TANK)?.live.sending).toMatchObject({ step: 'sent' })
    expect(await product.revisions.send(SLIP_TANK)).toMatchObject({
      kind: 'failed',
      reason: expect.stringMatching(/another file is on its way/),
    })
    const { text } = files[0] ?? { text: '' }
    expect(text).not.toBe('')
    const sent = () =>
      product.db.query(z.object({ hash: z.string() }), "select hash from revisions where state = 'sent'")
    while ((await sent()).length === 0) await new Promise((r) => setTimeout(r, 20))
    await client.endAsync(true)
    // It is not waited for here: the product ends with it unanswered.
    void first.catch(() => undefined)
  })

  test('a file that waits for a sleeper still waits after a restart', async () => {
    const folder = tempFolder()
    const product = await own(folder)
    await product.workshop.add(
      after(slipTank(), { kind: 'identify', name: 'Sleeper', slug: 'slip-tank', place: null }),
      'test',
    )
    await product.credentials.change('house', 'cone-six-oxidation')
    const { client } = await answering(product, () => 'done')
    await client.publishAsync('vn/slip-tank/status', '{"is":"asleep","for":600,"back":null}', { qos: 1, retain: true })
    await client.endAsync()
    await until(() => !product.link.isHere(SLIP_TANK), 5000)
    expect(await product.revisions.send(SLIP_TANK)).toMatchObject({ kind: 'waits', revision: 2, back: null })
    await stop(product)
    const again = await own(folder)
    expect(again.workshop.get(SLIP_TANK)?.live.sending).toEqual({ revision: 2, step: 'waits for it to wake' })
    // Overtaken by a newer one, it will not be sent any more.
    await edit(again, { kind: 'condition', signalId: 'slevel', set: { median: 7 } })
    await until(() => again.workshop.get(SLIP_TANK)?.live.status?.is === 'asleep', 5000)
    expect(await again.revisions.send(SLIP_TANK)).toMatchObject({ kind: 'waits', revision: 3 })
    expect((await revisionOf(again.db, SLIP_TANK, 2))?.state).toBe('unanswered')
    expect(fs.existsSync(path.join(folder, 'standins'))).toBe(false)
  })
})

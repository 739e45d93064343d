import { once } from 'node:events'
import http from 'node:http'
import { Worker } from 'node:worker_threads'
import { randomUUID } from 'node:crypto'
import mqtt, { type IClientOptions, type MqttClient } from 'mqtt'
import { addParts, after, blank } from './designs'
import { designText } from '../../src/core/model/readDesign'
import type { Product } from '../../src/server/product'
import { PASSWORDS, SLIP_TANK, until } from './product'

/** What was tried, and how much of it got through; nothing should. */
export interface Attacked {
  tried: number
  through: number
  note: string
}

/** A broker under attack: how to reach it, and the product behind it. */
export interface BrokerTarget {
  product: Product
  url: string
  options: IClientOptions
}

const NODE = { username: 'node-attacked', password: 'node-pass' }
const READER = { username: 'outside', password: PASSWORDS.outsidePassword }

const connect = (t: BrokerTarget, who: IClientOptions): Promise<MqttClient> =>
  mqtt.connectAsync(t.url, { ...t.options, reconnectPeriod: 0, connectTimeout: 20_000, ...who })

/** The node that attacks has a login of its own, as every node has. */
export const prepare = (product: Product): Promise<void> =>
  product.logins.set(NODE.username, 'node', SLIP_TANK, NODE.password)

/** Somebody subscribes to everything and never reads; another reads on. */
export async function unreadSubscriber(t: BrokerTarget, messages: number, bytes: number): Promise<Attacked> {
  const deaf = await connect(t, { ...READER, keepalive: 0 })
  const cuts = () =>
    t.product.ingest.troubles.filter((x) => /unread|read nothing/.test(x.what)).reduce((n, x) => n + x.times, 0)
  const before = cuts()
  deaf.on('error', () => undefined)
  await deaf.subscribeAsync('#')
  deaf.stream.unpipe()
  deaf.stream.pause()
  const reader = await connect(t, READER)
  let heard = 0
  let slowest = 0
  reader.on('message', (_, payload) => {
    heard += 1
    slowest = Math.max(slowest, Date.now() - Number(payload.toString('latin1', 0, 13)))
  })
  await reader.subscribeAsync('vn/slip-tank/td')
  const node = await connect(t, NODE)
  const body = Buffer.alloc(bytes, 'x')
  for (let i = 0; i < messages; i++) {
    body.write(String(Date.now()), 0, 'latin1')
    await node.publishAsync('vn/slip-tank/td', Buffer.from(body))
    // The sender waits for its reader now and then: what is measured is not its own flood.
    if (i % 50 === 49) await until(() => heard > i - 50, 10_000)
  }
  await until(
    () => heard === messages,
    20_000,
    () => `${heard} of ${messages}`,
  ).catch(() => undefined)
  await until(() => cuts() > before, 25_000).catch(() => undefined)
  const cut = cuts() > before
  await Promise.all([deaf.endAsync(true), reader.endAsync(true), node.endAsync(true)])
  return {
    tried: messages,
    through: messages - heard + (cut ? 0 : 1) + (slowest > 2000 ? 1 : 0),
    note: `${heard} of ${messages} heard by the other, slowest ${slowest} ms; the deaf one was ${cut ? 'cut' : 'kept'}`,
  }
}

/** One client whose filters overlap gets each message once. */
export async function overlapping(t: BrokerTarget, messages: number): Promise<Attacked> {
  const counts = new Map<string, number>()
  const reader = await connect(t, { ...READER, clean: false, clientId: `twice-${randomUUID()}` })
  reader.on('message', (_, payload) => counts.set(payload.toString(), (counts.get(payload.toString()) ?? 0) + 1))
  await reader.subscribeAsync(['vn/#', 'vn/+/level', 'vn/slip-tank/#', 'vn/slip-tank/level', '#'], { qos: 1 })
  const node = await connect(t, NODE)
  for (let i = 0; i < messages; i++) await node.publishAsync('vn/slip-tank/level', `0.${1000 + i}`, { qos: 1 })
  await until(() => counts.has(`0.${999 + messages}`), 10_000)
  const extra = [...counts].filter(([text]) => text.startsWith('0.1')).reduce((n, [, c]) => n + c - 1, 0)
  const missing = messages - [...counts.keys()].filter((k) => k.startsWith('0.1')).length
  await Promise.all([reader.endAsync(true), node.endAsync(true)])
  return { tried: messages, through: extra + missing, note: `${extra} delivered again, ${missing} missing` }
}

export async function manySubscriptions(t: BrokerTarget, n: number): Promise<Attacked> {
  const reader = await connect(t, READER)
  let granted = 0
  for (let at = 0; at < n; at += 50) {
    const filters = Array.from({ length: Math.min(50, n - at) }, (_, i) => `vn/x${at + i}/level`)
    const answers = await reader.subscribeAsync(filters).catch((e: unknown) => ('packet' in Object(e) ? [] : []))
    granted += answers.filter((a) => a.qos < 128).length
  }
  await reader.endAsync(true)
  return { tried: n, through: Math.max(0, granted - 100), note: `${granted} granted` }
}

export async function manyRetained(t: BrokerTarget, n: number): Promise<Attacked> {
  // A guest may publish what it likes below its topics; a node only what its file has.
  await t.product.logins.set('guest-many', 'guest', null, 'guest-pass', ['many'])
  const guest = { username: 'guest-many', password: 'guest-pass' }
  const many = await connect(t, guest)
  for (let i = 0; i < n; i++) await many.publishAsync(`many/x${i}`, '1', { retain: true, qos: i % 20 === 19 ? 1 : 0 })
  const stayed = many.connected
  await many.endAsync()
  const reader = await connect(t, READER)
  const kept = new Set<string>()
  reader.on('message', (topic, _, packet) => packet.retain && kept.add(topic))
  await reader.subscribeAsync('many/#')
  await until(() => kept.size >= 500, 5000).catch(() => undefined)
  await reader.endAsync(true)
  // Afterwards the place is empty again.
  const clear = await connect(t, guest)
  for (const topic of kept) await clear.publishAsync(topic, '', { retain: true })
  await clear.publishAsync('many/x0', '', { retain: true, qos: 1 })
  await clear.endAsync()
  return {
    tried: n,
    through: Math.max(0, kept.size - 500) + (stayed ? 0 : 1),
    note: `${kept.size} kept, the line ${stayed ? 'stayed' : 'was cut'}`,
  }
}

const FLOOD = `
const { parentPort, workerData: { url, options, n } } = require('node:worker_threads')
const mqtt = require('mqtt')
const one = (i) => mqtt.connectAsync(url, { ...options, reconnectPeriod: 0, connectTimeout: 20000, username: i % 3 === 0 ? 'outside' : 'nobody-' + i, password: 'guess ' + i, clientId: 'flood-' + i })
  .then((c) => c.endAsync(true).then(() => 1), () => 0)
Promise.all(Array.from({ length: n }, (_, i) => one(i))).then((all) => parentPort.postMessage(all.reduce((a, b) => a + b, 0)))
`

/** Wrong passwords by the thousand, and in the middle of them one that is right. */
export async function loginFlood(t: BrokerTarget, n: number): Promise<Attacked> {
  const refusedBefore = t.product.ingest.counts.refused
  // In a thread of its own: what it costs those who attack is not what it costs the broker.
  const flood = new Worker(FLOOD, { eval: true, workerData: { url: t.url, options: t.options, n } })
  const let_in_by = once(flood, 'message')
  await once(flood, 'online')
  await until(() => t.product.ingest.counts.refused > refusedBefore, 20_000)
  const began = performance.now()
  // A login nobody has used since the start: nothing is known of it yet.
  await t.product.logins.set('node-honest', 'node', SLIP_TANK, 'honest-pass')
  const set = performance.now() - began
  const from = performance.now()
  // Behind a secure door nobody is told apart before the handshake but by where he comes from.
  const localAddress = t.url.startsWith('mqtts') ? '127.0.0.2' : '127.0.0.1'
  const honest = await connect(t, {
    username: 'node-honest',
    password: 'honest-pass',
    localAddress,
  } as IClientOptions).catch(() => null)
  const took = performance.now() - from
  await honest?.endAsync(true)
  const [let_in] = (await let_in_by) as [number]
  await flood.terminate()
  return {
    tried: n,
    through: let_in + (honest && took < 2000 ? 0 : 1),
    note: `${let_in} let in; the right one ${honest ? `in after ${Math.round(took)} ms` : 'was refused'} (its making took ${Math.round(set)} ms)`,
  }
}

export async function manyConnections(t: BrokerTarget, n: number): Promise<Attacked> {
  const all = await Promise.all(
    Array.from({ length: n }, (_, i) => connect(t, { ...READER, clientId: `one-of-${i}` }).catch(() => null)),
  )
  const open = all.filter((c) => c !== null)
  await Promise.all(open.map((c) => c.endAsync(true)))
  return { tried: n, through: Math.max(0, open.length - 20), note: `${open.length} open at once` }
}

/** A session that goes away and has everything kept for it. */
export async function absentSession(t: BrokerTarget, n: number): Promise<Attacked> {
  const clientId = `away-${randomUUID()}`
  const away = await connect(t, { ...READER, clean: false, clientId })
  await away.subscribeAsync('vn/#', { qos: 1 })
  await away.endAsync(true)
  const node = await connect(t, NODE)
  for (let at = 0; at < n; at += 100)
    await Promise.all(
      Array.from({ length: 100 }, (_, i) => node.publishAsync('vn/slip-tank/level', `1.${at + i}`, { qos: 1 })),
    )
  await node.endAsync()
  let heard = 0
  const back = mqtt.connect(t.url, { ...t.options, ...READER, clean: false, clientId, reconnectPeriod: 0 })
  back.on('message', (_, payload) => {
    if (payload.toString().startsWith('1.')) heard += 1
  })
  await until(() => heard >= Math.min(n, 2000), 15_000).catch(() => undefined)
  await back.unsubscribeAsync('vn/#')
  await back.endAsync(true)
  return { tried: n, through: Math.max(0, heard - 2000), note: `${heard} had been kept` }
}

/** Ids and topics of others, as a node. */
export async function foreignTopics(t: BrokerTarget): Promise<Attacked> {
  const victim = await connect(t, { username: 'node-honest', password: 'honest-pass', clientId: 'kiln' }).catch(
    async () => {
      await t.product.logins.set('node-honest', 'node', SLIP_TANK, 'honest-pass')
      return connect(t, { username: 'node-honest', password: 'honest-pass', clientId: 'kiln' })
    },
  )
  const reader = await connect(t, READER)
  const heard: string[] = []
  reader.on('message', (topic, payload) => payload.toString() === 'attack' && heard.push(topic))
  await reader.subscribeAsync('#')
  const topics = [
    'vn/kiln-vent/level',
    'vn/time',
    'vn/slip-tank/pump/set',
    'vn/slip-tank/config/set',
    'standin/controller/entities',
    'x/y',
    '$SYS/x',
    'vn//level',
    'vn/slip-tank',
    '/vn/slip-tank/level',
  ]
  let tried = 0
  for (const topic of topics) {
    const node = await connect(t, { ...NODE, clientId: 'kiln' })
    node.on('error', () => undefined)
    tried += 1
    const cut = new Promise<void>((r) => node.once('close', () => r()))
    await Promise.race([node.publishAsync(topic, 'attack', { qos: 1 }).catch(() => undefined), cut])
    await node.endAsync(true)
  }
  const seen: string[] = []
  const spy = await connect(t, NODE)
  for (const filter of ['#', '$SYS/#', 'vn/#', 'vn/kiln-vent/+/set', 'vn/+/vault/set', '+/slip-tank/#']) {
    tried += 1
    const [answer] = await Promise.race([
      spy.subscribeAsync(filter).catch(() => []),
      new Promise<[]>((r) => spy.once('close', () => r([]))),
    ])
    if (answer && answer.qos < 128) seen.push(filter)
  }
  const still = victim.connected
  await Promise.all([victim.endAsync(true), reader.endAsync(true), spy.endAsync(true)])
  return {
    tried,
    through: heard.length + seen.length + (still ? 0 : 1),
    note: [...heard, ...seen, ...(still ? [] : ['another’s session taken over'])].join(', ') || 'all refused',
  }
}

export interface Answered {
  status: number
  text: string
  ms: number
}

/** A request as a script writes it, from an address of this machine. */
export function send(
  url: string,
  method: string,
  body: string | Buffer | null,
  headers: http.OutgoingHttpHeaders = {},
  from = '127.0.0.1',
): Promise<Answered> {
  const began = performance.now()
  return new Promise((done, failed) => {
    const request = http.request(
      url,
      {
        method,
        headers: { ...(body === null ? {} : { 'content-type': 'application/json' }), ...headers },
        localAddress: from,
        agent: false,
      },
      (response) => {
        let text = ''
        response.setEncoding('utf8')
        response.on('data', (d: string) => {
          text += d
        })
        response.on('end', () => done({ status: response.statusCode ?? 0, text, ms: performance.now() - began }))
        response.on('error', failed)
      },
    )
    request.on('error', (e) => failed(e))
    request.end(body ?? undefined)
  })
}

/** A body without an announced length that never ends: bytes the server took before it said enough. */
export function endlessBody(
  url: string,
  most: number,
  headers: http.OutgoingHttpHeaders = {},
): Promise<{ status: number; taken: number }> {
  return new Promise((done) => {
    let taken = 0
    let status = 0
    const piece = Buffer.alloc(64 * 1024, 0x20)
    const request = http.request(
      url,
      {
        method: 'POST',
        headers: { 'content-type': 'application/json', 'transfer-encoding': 'chunked', ...headers },
        agent: false,
      },
      (response) => {
        status = response.statusCode ?? 0
        response.resume()
        response.on('close', () => done({ status, taken }))
      },
    )
    const more = () => {
      while (taken < most && status === 0 && !request.destroyed) {
        taken += piece.length
        if (!request.write(piece)) return void request.once('drain', more)
      }
      request.end()
    }
    request.on('error', () => done({ status, taken }))
    more()
  })
}

export async function endlessBodies(base: string, most: number): Promise<Attacked> {
  const routes = [
    '/api/session',
    '/api/nodes',
    '/api/designs',
    '/api/settings',
    '/api/shop/edits',
    '/api/shelf',
    '/api/credentials',
    `/api/nodes/${randomUUID()}/edits`,
  ]
  const bad: string[] = []
  let largest = 0
  for (const at of routes) {
    const { status, taken } = await endlessBody(base + at, most)
    largest = Math.max(largest, taken)
    // What lies in the buffers of the sockets between has not been taken by anybody.
    // A line that is cut while it still sends is refused as well, if without words.
    if ((status !== 0 && (status < 400 || status >= 500)) || taken > 12_000_000)
      bad.push(`${at} ${status}, ${taken} bytes`)
  }
  return {
    tried: routes.length,
    through: bad.length,
    note: `at most ${(largest / 1e6).toFixed(1)} MB went out before the refusal; ${bad.join('; ')}`,
  }
}

const deep = (n: number) => '['.repeat(n) + ']'.repeat(n)

/** Requests that make no sense: every answer is a refusal with words. */
export async function nastyBodies(base: string, node: string): Promise<Attacked> {
  const at = new Date().toISOString()
  const edit = (body: unknown, more: object = {}) => ({
    id: randomUUID(),
    document: node,
    base: 0,
    body,
    author: 'x',
    at,
    ...more,
  })
  const rename = { kind: 'rename-part', partId: 'bell', label: 'y' }
  const bodies: [string, string][] = [
    ['/api/nodes', JSON.stringify({ name: 'a\u0000b', place: '', board: 'board-32-30', author: '' })],
    ['/api/nodes', '{"name":"a\\ud800","place":"","board":"board-32-30","author":""}'],
    ['/api/nodes', JSON.stringify({ name: 'x'.repeat(61), place: '', board: 'board-32-30', author: '' })],
    ['/api/nodes', JSON.stringify({ name: ' \t ', place: '', board: 'board-32-30', author: '' })],
    ['/api/nodes', deep(100_000)],
    ['/api/nodes', '{"__proto__":{"name":"x"}}'],
    ['/api/nodes', JSON.stringify({ name: 'x', place: '', board: '__proto__', author: '' })],
    ['/api/nodes', JSON.stringify({ name: 'x', place: '', board: 'constructor', author: '' })],
    [`/api/nodes/${node}/edits`, JSON.stringify(edit(rename, { at: '0000-01-01T00:00:00Z' }))],
    [`/api/nodes/${node}/edits`, JSON.stringify(edit(rename, { at: '9999-13-01T00:00:00Z' }))],
    [`/api/nodes/${node}/edits`, JSON.stringify(edit({ ...rename, partId: '__proto__' }))],
    [
      `/api/nodes/${node}/edits`,
      JSON.stringify(edit({ kind: 'revert', of: 'x', changes: [{ path: ['id'], before: node, after: randomUUID() }] })),
    ],
    [
      `/api/nodes/${node}/edits`,
      JSON.stringify(edit({ kind: 'revert', of: 'x', changes: [{ path: ['slug'], before: 'bell', after: 'time' }] })),
    ],
    [
      `/api/nodes/${node}/edits`,
      JSON.stringify(
        edit({
          kind: 'revert',
          of: 'x',
          changes: [{ path: ['board', 'id'], before: 'board-32-30', after: 'constructor' }],
        }),
      ),
    ],
    [
      `/api/nodes/${node}/edits`,
      JSON.stringify(edit({ kind: 'connect', ref: 'nowhere', address: 'name', fixed: null, keepAliveS: 30 })),
    ],
    [
      `/api/nodes/${node}/edits`,
      JSON.stringify(
        edit({
          kind: 'revert',
          of: 'x',
          changes: [{ path: ['parts', 'zz'], after: JSON.parse(`{"a":${deep(50)}}`) as unknown }],
        }),
      ),
    ],
    ['/api/designs', JSON.stringify({ text: deep(60_000), author: 'x' })],
    ['/api/designs', JSON.stringify({ text: '{"format":"vivid-node/design"', author: 'x' })],
    ['/api/shelf', JSON.stringify({ text: '\ufeff{}' })],
    ['/api/credentials', JSON.stringify({ ref: 'house', password: '        ' })],
    ['/api/session', JSON.stringify({ password: '' })],
    ['/api/session', deep(90_000)],
    ['/api/settings', JSON.stringify({ settings: { shop: 'x'.repeat(5000) } })],
    [`/api/nodes/${encodeURIComponent('a\u0000b')}/send`, '{}'],
    [`/api/nodes/${encodeURIComponent("' or 1=1 --")}/send`, '{}'],
  ]
  const bad: string[] = []
  for (const [path, body] of bodies) {
    const { status, text } = await send(base + path, 'POST', body)
    if (status < 400 || status >= 500 || text.length < 8)
      bad.push(`${path} ${body.slice(0, 60)}: ${status} ${text.slice(0, 60)}`)
  }
  const gets = [
    '/api/nodes/x%00y/design',
    `/api/nodes/${node}/readings?signal=%00&seconds=1e999`,
    `/api/nodes/${node}/revisions/1e99`,
    '/api/shelf?item=__proto__',
    '/api/shelf?item=%ff',
  ]
  for (const path of gets) {
    const { status, text } = await send(base + path, 'GET', null)
    if (status < 400 || status >= 500 || text.length < 8) bad.push(`${path}: ${status} ${text.slice(0, 60)}`)
  }
  return { tried: bodies.length + gets.length, through: bad.length, note: bad.join('; ') || 'each refused with words' }
}

/** The same name at once from many sides: each gets one of its own, or words. */
export async function sameNames(base: string, n: number): Promise<Attacked> {
  const text = designText({ ...blank('board-32-30'), id: randomUUID(), slug: 'at-once' })
  const other = designText({ ...blank('board-32-30'), id: randomUUID(), slug: 'at-once' })
  const answers = await Promise.all(
    Array.from({ length: n }, (_, i) =>
      send(`${base}/api/designs`, 'POST', JSON.stringify({ text: i % 2 ? text : other, author: 'x' })),
    ),
  )
  const taken = answers.filter((a) => a.status === 201).length
  const wordless = answers.filter((a) => a.status >= 500 || a.text.length < 8).length
  return { tried: n, through: Math.abs(taken - 1) + wordless, note: `${taken} taken, ${wordless} without words` }
}

/** A design far beyond any house: while it is edited the server answers others. */
export async function hugeDesign(base: string, edits: number, copies = 200): Promise<Attacked> {
  const one = after(
    blank('board-s3-44'),
    ...addParts(['thermometer-one-wire', 'button-ground', 'contact-reed', 'climate-i2c-two']),
  )
  const parts = Object.fromEntries(
    Array.from({ length: copies }, (_, i) =>
      Object.values(one.parts).map(
        (p, j) => [`p${i}x${j}`, { ...p, order: i * 4 + j, label: `part ${i} ${j}` }] as const,
      ),
    ).flat(),
  )
  const id = randomUUID()
  const design = { ...one, id, slug: 'huge', parts, signals: {}, locks: {}, wires: {}, plan: { pins: {}, basis: '' } }
  let slowest = 0
  let over = false
  // What this machine makes anybody wait that has nothing to do with the server: a timer of this process, late.
  let late = 0
  const watch = (async () => {
    while (!over) {
      slowest = Math.max(slowest, (await send(`${base}/api/health`, 'GET', null)).ms)
      const due = performance.now() + 10
      await new Promise((r) => setTimeout(r, 10))
      late = Math.max(late, performance.now() - due)
    }
  })()
  const brought = await send(
    `${base}/api/designs`,
    'POST',
    JSON.stringify({ text: JSON.stringify(design), author: 'x' }),
  )
  const import_ms = slowest
  slowest = late = 0
  let saved = 0
  let said = ''
  for (let i = 0; i < edits; i++) {
    const body = {
      id: randomUUID(),
      document: id,
      base: saved,
      author: 'x',
      at: new Date().toISOString(),
      body: { kind: 'place-part', partId: `p${i}x0`, set: { cableM: 2 } },
    }
    const answer = await send(`${base}/api/nodes/${id}/edits`, 'POST', JSON.stringify(body))
    if (answer.status === 200) saved += 1
    else said = answer.text.slice(0, 200)
  }
  over = true
  await watch
  return {
    tried: edits,
    through: (slowest > 200 + 10 * late ? 1 : 0) + (brought.status === 201 ? edits - saved : 1),
    note: `${Object.keys(parts).length} parts, ${saved} edits saved, health within ${Math.round(slowest)} ms (${Math.round(import_ms)} ms while it was brought in)${said}${brought.status === 201 ? '' : `; ${brought.text.slice(0, 200)}`}`,
  }
}

/** Guesses at the shop's password, and an honest slip from elsewhere and a right one meanwhile. */
export async function guesses(base: string, n: number, password: string): Promise<Attacked> {
  const guess = (i: number, from: string) =>
    send(
      `${base}/api/session`,
      'POST',
      JSON.stringify({ password: `guess ${i}` }),
      { 'x-vivid-address': `10.0.0.${i % 250}`, 'x-forwarded-for': `10.0.0.${i % 250}` },
      from,
    )
  const began = performance.now()
  const all = Promise.all(Array.from({ length: n }, (_, i) => guess(i, '127.0.0.1')))
  const slip = await guess(-1, '127.0.0.2')
  const right = await send(`${base}/api/session`, 'POST', JSON.stringify({ password }), {}, '127.0.0.3')
  const tried = (await all).filter((a) => a.status === 401).length
  return {
    tried: n,
    // Eight at once, and one each ten seconds.
    through:
      Math.max(0, tried - 8 - Math.ceil((performance.now() - began) / 10_000)) +
      (slip.status === 401 && slip.ms < 6000 ? 0 : 1) +
      (right.status === 200 ? 0 : 1),
    note: `${tried} were looked at, the rest told to wait; an honest slip was answered ${slip.status} in ${Math.round(slip.ms)} ms, the right one ${right.status} in ${Math.round(right.ms)} ms`,
  }
}

/** Many backups at once: one is taken, the others are told. */
export async function backupsAtOnce(base: string, n: number): Promise<Attacked> {
  const all = await Promise.all(Array.from({ length: n }, () => send(`${base}/api/backup`, 'GET', null)))
  const taken = all.filter((a) => a.status === 200).length
  const told = all.filter((a) => a.status === 409).length
  return {
    tried: n,
    through: taken + told === n && taken >= 1 && taken < n ? 0 : n - told - 1,
    note: `${taken} taken, ${told} told to wait`,
  }
}

/** Event streams opened and dropped by the thousand. `memory`: bytes the server has in use. */
export async function droppedStreams(base: string, n: number, memory: () => number): Promise<Attacked> {
  const open = (at: string) =>
    new Promise<void>((done) => {
      const request = http.get(base + at, { agent: false }, (response) => {
        response.on('error', () => undefined)
        request.destroy()
        done()
      })
      request.on('error', () => done())
    })
  for (let i = 0; i < 200; i++) await open('/api/live')
  const before = memory()
  for (let at = 0; at < n; at += 20)
    await Promise.all(Array.from({ length: 20 }, (_, i) => open(i % 2 ? '/api/live' : '/api/ledger')))
  const grown = (memory() - before) / 1e6
  return { tried: n, through: grown > 150 ? 1 : 0, note: `${Math.round(grown)} MB more in use afterwards` }
}

export async function foreignPages(base: string): Promise<Attacked> {
  const body = JSON.stringify({ name: 'x', place: '', board: 'board-32-30', author: '' })
  const tries: [string, http.OutgoingHttpHeaders][] = [
    ['POST', { origin: 'http://elsewhere.test' }],
    ['POST', { origin: 'null' }],
    ['POST', { host: 'elsewhere.test' }],
    ['POST', { 'content-type': 'text/plain' }],
    ['DELETE', { origin: 'http://elsewhere.test' }],
    ['GET', { host: 'rebound.test' }],
  ]
  const bad: string[] = []
  for (const [method, headers] of tries) {
    const at = method === 'DELETE' ? '/api/copies' : method === 'GET' ? '/api/snapshot' : '/api/nodes'
    const { status } = await send(base + at, method, method === 'GET' ? null : body, headers)
    if (status < 400) bad.push(`${method} ${JSON.stringify(headers)}: ${status}`)
  }
  return { tried: tries.length, through: bad.length, note: bad.join('; ') || 'each turned away' }
}

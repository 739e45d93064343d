import { type ChildProcess, execFileSync, spawn } from 'node:child_process'
import fs from 'node:fs'
import os from 'node:os'
import path from 'node:path'
import { monitorEventLoopDelay } from 'node:perf_hooks'
import { setFlagsFromString } from 'node:v8'
import { runInNewContext } from 'node:vm'
import mqtt from 'mqtt'
import { z } from 'zod'
import { applyEdit } from '../src/core/edits/apply'
import { derive } from '../src/core/derive/derive'
import { processorMs, type Publishers, startPeer, startPublishers } from './peerBroker'
import { placesIn } from '../src/server/db/beginThread'
import { brokerFolderOf, runningBroker } from '../src/server/broker/brokerProcess'
import { openDatabase } from '../src/server/db/database'
import { spreadAll } from '../src/server/db/messageRows'
import type { Product } from '../src/server/product'
import { runChecks } from '../src/core/checks/runChecks'
import { designSchema } from '../src/core/model/design'
import { drawWiring } from '../src/core/wiring/drawing'
import { drawingFigures } from '../src/core/wiring/drawingFigures'
import { wiringOf } from '../src/core/wiring/netlist'
import { addParts, after, blank, catalog, slipTank } from '../tests/support/designs'
import { freePort, SLIP_TANK, startProduct, tempFolder, until } from '../tests/support/product'
import { attack } from './attack'
import { boardHeap, tenBoards } from './board'
import { classHeap } from './classHeap'
import { days } from './days'
import { fuzz } from './fuzz'
import { ledger } from './ledger'
import { contract } from './contract'
import { radio } from './radio'
import { energy } from './energy'
import { plans } from './plans'
import { remedies } from './remedies'
import { tuning } from './tuning'

// One temporary folder for all of them, that goes with the last.
const own = fs.mkdtempSync(path.join(os.tmpdir(), 'vivid-bench-'))
process.env.TMPDIR = own
process.on('exit', () => fs.rmSync(own, { recursive: true, force: true, maxRetries: 3 }))

/**
 * Measures what the product promises and prints one table. Ratios come from the same run on the same machine; raw and
 * stored alternate. `npm run bench`, or `npm run bench -- edits wires energy tuning contract radio plans board heap days broker start stall ledger
 * memory remedies fuzz attack` for some of it.
 */
const BATCH = 20_000
const ROUNDS = 5
const WINDOW = 100
const rows: [string, string, string][] = []
const wanted = process.argv.slice(2)
const does = (name: string) => wanted.length === 0 || wanted.includes(name)

const sorted = (v: number[]) => [...v].sort((a, b) => a - b)
const median = (v: number[]) => sorted(v)[Math.floor(v.length / 2)] ?? NaN
const spread = (v: number[], unit: string, digits = 0) =>
  `${median(v).toFixed(digits)} ${unit} (${(sorted(v)[0] ?? NaN).toFixed(digits)} … ${(sorted(v).at(-1) ?? NaN).toFixed(digits)})`

function edits(): void {
  let design = slipTank()
  const times: number[] = []
  for (let i = 0; i < 300; i++) {
    const began = performance.now()
    const applied = applyEdit(
      design,
      { kind: 'condition', signalId: 'slevel', set: { median: i % 2 ? 3 : 5 } },
      catalog,
    )
    if (!applied.ok) throw new Error(applied.reason)
    design = applied.design
    derive(design, catalog)
    if (i >= 50) times.push(performance.now() - began)
  }
  rows.push(['one edit → everything derived, slip-tank', spread(times, 'ms', 2), '≤ 16 ms'])
}

/**
 * All checks and wires after one edit, for each demo node and a panel of sixty wires; and the figures of their
 * drawings.
 */
function wires(): void {
  const kinds = [
    'ranger-echo',
    'relay-module-low',
    'relay-module-high',
    'thermometer-one-wire',
    'encoder-push',
    'motion-module',
    'fet-stage',
    'toggle-lamp',
    'thermistor',
    'soil-analog',
    'contact-reed',
    'thermocouple-spi',
    'climate-i2c-two',
    'light-i2c',
    'display-i2c',
    'button-ground',
    'button-ground',
    'flow-meter',
  ]
  const nodes = [
    ...fs
      .readdirSync('demo/designs')
      .map((f) => designSchema.parse(JSON.parse(fs.readFileSync(`demo/designs/${f}`, 'utf8')))),
    { ...after(blank('board-s3-44'), ...addParts(kinds)), slug: 'panel' },
  ]
  for (const design of nodes) {
    const [partId = ''] = Object.keys(design.parts)
    const times: number[] = []
    let at = design
    for (let i = 0; i < 120; i++) {
      const applied = applyEdit(at, { kind: 'place-part', partId, set: { cableM: i % 2 ? 0.4 : 0.5 } }, catalog)
      if (!applied.ok) throw new Error(applied.reason)
      at = applied.design
      const began = performance.now()
      const wiring = wiringOf(at, catalog)
      runChecks(at, catalog, wiring)
      if (i >= 20) times.push(performance.now() - began)
    }
    const wiring = wiringOf(design, catalog)
    const board = catalog.boards[design.board.id]
    if (!board) throw new Error('no board')
    const drawing = drawWiring(design, catalog, board, wiring)
    const f = drawingFigures(drawing)
    rows.push([
      `checks and wires after an edit, ${design.slug} (${wiring.wires.length} wires)`,
      spread(times, 'ms', 2),
      design.slug === 'panel' ? '≤ 50 ms' : '≤ 16 ms',
    ])
    rows.push([
      `drawing of ${design.slug}`,
      `${f.crossings} crossings, ${f.bends} bends, ${f.overlaps} overlaps, ${f.length} px of wire, ${Math.round(drawing.height)} px high`,
      '0 crossings, 0 overlaps',
    ])
  }
}

const login = (p: Product) =>
  z
    .object({ broker: z.object({ name: z.string(), password: z.string() }) })
    .parse(JSON.parse(fs.readFileSync(path.join(p.options.dataFolder, 'standins', SLIP_TANK, 'secret.json'), 'utf8')))
    .broker

/** Messages a second from the first publish to the last one taken (raw) or to the last row durable (stored). */
async function rate(publishers: Publishers, from: number, finished: () => Promise<void>): Promise<number> {
  const began = performance.now()
  await publishers.publish(from, BATCH)
  await finished()
  return BATCH / ((performance.now() - began) / 1000)
}

/** Raw and stored take turns, each first every other time; the first round of each warms up and does not count. */
async function broker(): Promise<void> {
  for (const qos of [0, 1] as const) {
    for (const publishers of [1, 50]) {
      const product = await startProduct()
      // As many logins as it takes: each has its share of connections.
      const names = Array.from({ length: Math.ceil(publishers / 20) }, (_, i) => `bench-${i}`)
      const password = 'bench-pass'
      for (const name of names) await product.logins.set(name, 'node', SLIP_TANK, password)
      const rawPort = await freePort()
      const peer = await startPeer(rawPort, qos)
      const toRaw = await startPublishers(rawPort, qos, publishers, password)
      const toStored = await startPublishers(product.options.mqttPort, qos, publishers, password)
      const raw: number[] = []
      const stored: number[] = []
      const rounds = qos === 0 ? 8 * ROUNDS : ROUNDS
      const ours = [runningBroker(brokerFolderOf(product.options.dataFolder))?.pid ?? 0, process.pid]
      const spent = () => [...peer.processes, ...ours].map(processorMs)
      const before = spent()
      for (let round = 0; round <= rounds; round++) {
        const turns = [
          async () => {
            const before = await peer.heard()
            const all = async () => {
              while ((await peer.heard()) < before + BATCH) await new Promise((r) => setTimeout(r, 2))
            }
            return raw.push(await rate(toRaw, 0, all))
          },
          async () => {
            const before = product.ingest.counts.received
            return stored.push(
              await rate(toStored, round * BATCH, async () => {
                await until(() => product.ingest.counts.received >= before + BATCH, 60_000)
                await product.ingest.buffer.flush()
              }),
            )
          },
        ]
        for (const turn of round % 2 ? turns : turns.reverse()) await turn()
        await spreadAll(product.db)
      }
      const [count] = await product.db.query(
        z.object({ n: z.number() }),
        'select count(distinct number)::int as n from readings',
      )
      // Each round by itself: the machine is as fast for one as for the other.
      const ratios = stored.map((s, i) => s / (raw[i] ?? NaN)).slice(1)
      rows.push([
        `broker → durable row, qos ${qos}, ${publishers} publisher${publishers > 1 ? 's' : ''}, ${rounds} rounds`,
        `${spread(ratios, 'of raw', 2)}; ${median(stored.slice(1)).toFixed(0)} of ${median(raw.slice(1)).toFixed(0)} msg/s; lost ${(rounds + 1) * BATCH - (count?.n ?? 0)}`,
        qos === 0 ? '≥ 0.8' : '≥ 0.5',
      ])
      const each = spent().map((ms, i) => ((1000 * (ms - (before[i] ?? 0))) / ((rounds + 1) * BATCH)).toFixed(0))
      rows.push([
        '  of the processor a message takes',
        `bare: broker ${each[0]} µs, subscriber ${each[1]} µs; ours: broker ${each[2]} µs, product and database ${each[3]} µs`,
        '',
      ])
      for (const p of [toRaw, toStored]) p.end()
      peer.end()
      await product.stop()
    }
  }
}

interface Ports {
  pages: number
  mqtt: number
}

/** From the start of a process until each of these has been answered, one after the other, ms. */
async function timeToPage(begin: (port: Ports) => ChildProcess, paths: string[]): Promise<number> {
  const port = { pages: await freePort(), mqtt: await freePort() }
  const began = performance.now()
  const child = begin(port)
  for (const path of paths) {
    while (
      !(await fetch(`http://127.0.0.1:${port.pages}${path}`).then(
        (r) => r.arrayBuffer().then(() => r.ok),
        () => false,
      ))
    )
      await new Promise((r) => setTimeout(r, 20))
  }
  const ms = performance.now() - began
  child.kill('SIGINT')
  await new Promise((r) => child.once('exit', r))
  return ms
}

/**
 * For comparison: a server of this framework with one page that says nothing, and an empty database opened in a thread
 * meanwhile; both as they come.
 */
function bareServer(): (port: Ports) => ChildProcess {
  const app = tempFolder()
  fs.symlinkSync(path.resolve('node_modules'), path.join(app, 'node_modules'))
  const files = {
    'package.json': '{"private":true,"type":"module"}',
    'next.config.mjs': 'export default { turbopack: { root: "/" }, outputFileTracingRoot: "/" }',
    'app/layout.js': 'export default function Layout({ children }) { return <html><body>{children}</body></html> }',
    'app/page.js':
      'export const dynamic = "force-dynamic"\nexport default function Page() { return <p>{Date.now()}</p> }',
    'database.mjs':
      'import { PGlite } from "@electric-sql/pglite"\nimport { parentPort, workerData } from "node:worker_threads"\nconst db = await PGlite.create(workerData)\nawait db.query("select 1")\nparentPort.postMessage("open")\nparentPort.once("message", () => db.close())',
    'serve.mjs': `import http from 'node:http'
import { Worker } from 'node:worker_threads'
const open = new Worker(new URL('./database.mjs', import.meta.url), { workerData: ${JSON.stringify(path.join(app, 'database'))} })
const opened = new Promise((r) => open.once('message', r))
const { default: next } = await import('next')
const server = next({ dev: false, dir: ${JSON.stringify(app)}, hostname: '127.0.0.1', port: Number(process.env.PORT), conf: { turbopack: { root: '/' } } })
await server.prepare()
const handle = server.getRequestHandler()
http.createServer(async (request, response) => { await opened; handle(request, response) }).listen(Number(process.env.PORT), '127.0.0.1')
`,
  }
  for (const [name, text] of Object.entries(files)) {
    fs.mkdirSync(path.dirname(path.join(app, name)), { recursive: true })
    fs.writeFileSync(path.join(app, name), text)
  }
  fs.cpSync('build/empty-database', path.join(app, 'database'), { recursive: true })
  execFileSync(process.execPath, [path.resolve('node_modules/next/dist/bin/next'), 'build'], {
    cwd: app,
    stdio: 'ignore',
    env: { ...process.env, NODE_ENV: 'production', NEXT_TELEMETRY_DISABLED: '1' },
  })
  return (port) =>
    spawn(process.execPath, [path.join(app, 'serve.mjs')], {
      cwd: app,
      stdio: 'ignore',
      env: { ...process.env, NODE_ENV: 'production', NEXT_TELEMETRY_DISABLED: '1', PORT: String(port.pages) },
    })
}

async function timeToOpen(folder: string): Promise<number> {
  const began = performance.now()
  const db = await openDatabase(placesIn(process.cwd(), folder))
  const ms = performance.now() - began
  await db.close()
  return ms
}

async function start(): Promise<void> {
  const first: number[] = []
  const again: number[] = []
  const plain: number[] = []
  const product = (folder: string) =>
    timeToPage(
      (port) =>
        spawn(process.execPath, [...process.execArgv, 'build/supervise.mjs', '--own'], {
          env: { ...process.env, PORT: String(port.pages), MQTT_PORT: String(port.mqtt), VIVID_DATA: folder },
          stdio: 'ignore',
        }),
      ['/api/snapshot', '/'],
    )
  const bare = bareServer()
  for (let i = 0; i < ROUNDS; i++) {
    const folder = tempFolder()
    first.push(await product(folder))
    again.push(await product(folder))
    plain.push(await timeToPage(bare, ['/']))
  }
  const made: number[] = []
  const opened: number[] = []
  for (let i = 0; i < ROUNDS; i++) {
    const folder = tempFolder()
    made.push(await timeToOpen(folder))
    opened.push(await timeToOpen(folder))
  }
  rows.push(['database alone: a new folder → ready', spread(made, 'ms'), '≤ 2000 ms'])
  rows.push(['database alone: existing data → ready', spread(opened, 'ms'), ''])
  const ratio = (times: number[]) => `${spread(times, 'ms')}; ${(median(times) / median(plain)).toFixed(2)} of that`
  rows.push([
    'for comparison: an empty page of the same framework, the same database opened empty beside it, as they come',
    spread(plain, 'ms'),
    '',
  ])
  rows.push(['first creation → first page with its state', ratio(first), '≤ 2000 ms'])
  rows.push(['existing data → first page with its state', ratio(again), '≤ 2000 ms'])
}

/** A query of one second in the database's thread: what the broker's delivery and the server's loop feel of it. */
async function stall(): Promise<void> {
  const product = await startProduct()
  const { name, password } = login(product)
  const client = await mqtt.connectAsync(`mqtt://127.0.0.1:${product.options.mqttPort}`, { username: name, password })
  await client.subscribeAsync('vn/time')
  const trip = async () => {
    const began = performance.now()
    const heard = new Promise<void>((r) => client.once('message', () => r()))
    await product.link.publish('vn/time', '1', false)
    await heard
    return performance.now() - began
  }
  const calm: number[] = []
  for (let i = 0; i < 100; i++) calm.push(await trip())
  const busy: number[] = []
  // Pages are served by this same loop.
  const loop = monitorEventLoopDelay({ resolution: 5 })
  loop.enable()
  let slow = true
  const query = product.db.run('select pg_sleep(1)').then(() => {
    slow = false
  })
  while (slow) {
    busy.push(await trip())
    await new Promise((r) => setTimeout(r, 5))
  }
  await query
  rows.push(['broker round trip, calm', spread(calm, 'ms', 2), ''])
  rows.push(['broker round trip during a 1 s query', spread(busy, 'ms', 2), 'no stall'])
  rows.push(['longest the pages’ loop was held up meanwhile', `${(loop.max / 1e6).toFixed(0)} ms`, 'no stall'])
  await client.endAsync()
  await product.stop()
}

/**
 * An hour of 100 messages a second, sent as fast as they are taken: what the server's heap and the whole process hold
 * after each tenth.
 */
async function memory(): Promise<void> {
  setFlagsFromString('--expose-gc')
  const gc = runInNewContext('gc') as () => void
  const product = await startProduct()
  const { name, password } = login(product)
  const client = await mqtt.connectAsync(`mqtt://127.0.0.1:${product.options.mqttPort}`, { username: name, password })
  const total = 360_000
  const heap: number[] = []
  const rss: number[] = []
  for (let sent = 0; sent < total; sent += WINDOW) {
    await Promise.all(
      Array.from({ length: WINDOW }, (_, i) =>
        client.publishAsync('vn/slip-tank/level', String(sent + i), { qos: sent % 10 === 0 ? 1 : 0 }),
      ),
    )
    if ((sent + WINDOW) % (total / 10) === 0) {
      await until(() => product.ingest.counts.received >= sent + WINDOW, 60_000)
      await product.ingest.buffer.flush()
      gc()
      heap.push(process.memoryUsage().heapUsed / 1e6)
      rss.push(process.memoryUsage().rss / 1e6)
    }
  }
  await spreadAll(product.db)
  const [stored] = await product.db.query(z.object({ n: z.number() }), 'select count(*)::int as n from readings')
  rows.push([
    'heap after a tenth … all of 360 000 messages',
    `${heap[0]?.toFixed(0)} … ${heap.at(-1)?.toFixed(0)} MB; ${stored?.n} stored`,
    'no growth',
  ])
  rows.push(['whole process, database thread included', `${rss[0]?.toFixed(0)} … ${rss.at(-1)?.toFixed(0)} MB`, ''])
  await client.endAsync()
  await product.stop()
}

if (does('edits')) edits()
if (does('wires')) wires()
if (does('energy')) rows.push(...energy())
if (does('tuning')) rows.push(...tuning())
if (does('radio')) await radio(rows)
if (does('contract')) rows.push(...contract())
if (does('plans')) rows.push(...(await plans()))
if (does('board')) {
  await boardHeap(rows)
  if (!process.env.HEAP_ONLY) await tenBoards(rows)
}
if (does('heap')) await classHeap(rows)
if (does('days')) await days(rows)
if (does('broker')) await broker()
if (does('start')) await start()
if (does('stall')) await stall()
if (does('ledger')) await ledger(rows)
if (does('memory')) await memory()
if (does('remedies')) rows.push(...remedies())
if (does('fuzz')) rows.push(...fuzz(100_000))
const clean = !does('attack') || (await attack(rows))

const widths = [0, 1].map((c) => Math.max(...rows.map((r) => r[c]?.length ?? 0)))
console.log(
  `\n${os.cpus().length} × ${os.cpus()[0]?.model ?? 'processor'}, Node ${process.versions.node}; batches of ${BATCH}, window 100, ${ROUNDS} rounds, median (least … most)\n`,
)
for (const [what, result, target] of rows)
  console.log(`${what.padEnd(widths[0] ?? 0)}  ${result.padEnd(widths[1] ?? 0)}  ${target}`)
process.exit(clean ? 0 : 1)

import fs from 'node:fs'
import path from 'node:path'
import { Worker } from 'node:worker_threads'
import { canonicalJson } from '../src/core/hash/canonicalJson'
import type { Design } from '../src/core/model/design'
import { compile } from '../src/core/nodefile/compile'
import { bareBroker } from './bareBroker'
import { blank, catalog } from '../tests/support/designs'
import { twentySignals } from '../tests/support/twentySignals'
import { freePort, startProduct, tempFolder, until } from '../tests/support/product'
import { NO_SURROUNDINGS } from '../src/core/surroundings/surroundings'

interface Result {
  ok: boolean
  why?: string
  alloc?: number
  state?: string
  control?: string
  stages?: Record<string, number>
  longestModelledMs?: number
}
const KIB = 1024
const STEPS = 1000

/** Heap a board needs, figures apart, in the hard-limited build; and its longest step on the modelled clock. */
export async function boardHeap(rows: [string, string, string][]): Promise<void> {
  const port = await freePort()
  const broker = await bareBroker(port)
  const design = twentySignals()
  const flash = (of: Design) => {
    const made = compile(of, NO_SURROUNDINGS, catalog, { host: '127.0.0.1', port, root: 'vn' }, 1)
    if (!made.ok) throw new Error(made.reasons.join())
    const dir = tempFolder()
    fs.writeFileSync(path.join(dir, 'node.json'), made.compiled.text)
    fs.writeFileSync(path.join(dir, 'td.json'), canonicalJson(made.compiled.td))
    fs.writeFileSync(
      path.join(dir, 'secret.json'),
      JSON.stringify({
        broker: { name: 'n', password: 'p' },
        networks: { house: [{ name: 'a', password: 'b' }] },
        key: '00'.repeat(48),
        n: 0,
      }),
    )
    return { dir, bytes: made.compiled.text.length }
  }
  const trial = (flashDir: string, heapBytes: number, limited: boolean) =>
    new Promise<Result>((resolve, reject) => {
      const worker = new Worker(path.resolve('build/heap-trial.mjs'), {
        workerData: { flashDir, deviceDir: 'device', heapBytes, limited, steps: STEPS },
        stderr: true,
      })
      worker.once('message', resolve).once('error', reject)
      // Far too little, and it does not even fail any more.
      setTimeout(() => {
        resolve({ ok: false, why: 'stuck' })
        void worker.terminate()
      }, 20_000).unref()
    })
  /** Smallest heap with which it runs, to half a KiB. */
  const least = async (flashDir: string): Promise<number> => {
    let [low, high] = [24 * KIB, 160 * KIB]
    while (high - low > KIB) {
      const middle = (low + high) >> 1
      const r = await trial(flashDir, middle, true)
      if (r.ok && r.state === 'up') high = middle
      else low = middle
    }
    return high
  }
  const full = flash(design)
  if (process.env.KEEP) fs.cpSync(full.dir, process.env.KEEP, { recursive: true })
  const empty = flash(blank('board-s3-44'))
  const free = await trial(full.dir, 1024 * KIB, false)
  const control = await trial(full.dir, 256 * KIB, true)
  const [need, base] = [await least(full.dir), await least(empty.dir)]
  const kib = (n: number | undefined) => `${((n ?? NaN) / KIB).toFixed(1)} KiB`
  rows.push(['node file of 20 signals', kib(full.bytes), '≤ 8 KiB'])
  const at = (name: string) => free.stages?.[name] ?? NaN
  rows.push([
    'heap in use: interpreter and its modules; our runtime; drivers of the file; file and 20 running signals',
    `${kib(at('interpreter'))}; ${kib(at('runtime') - at('interpreter'))}; ${kib(at('drivers') - at('runtime'))}; ${kib((free.alloc ?? NaN) - at('drivers'))}`,
    '',
  ])
  rows.push([`heap in use after ${STEPS} steps`, kib(free.alloc), ''])
  rows.push([
    'least hard-limited heap that loads, connects and runs them; the same without signals',
    `${kib(need)}; ${kib(base)}`,
    '',
  ])
  rows.push(['so parse, drivers’ code and 1 000 steps need', kib(need - base), '≤ 32 KiB'])
  rows.push(['control: asking for as much again in that build', String(control.control), 'MemoryError'])
  rows.push([
    'longest step on the modelled clock, 20 signals',
    `${(free.longestModelledMs ?? NaN).toFixed(1)} ms`,
    '≤ 30 ms',
  ])
  await broker.close()
}

/** Processor time of ten simulated boards at fifty steps a second, as a share of one core. */
export async function tenBoards(rows: [string, string, string][]): Promise<void> {
  const product = await startProduct()
  const from = fs
    .readdirSync(path.join(product.options.dataFolder, 'standins'))
    .filter((n) => fs.existsSync(path.join(product.options.dataFolder, 'standins', n, 'node.json')))
  const workers = Array.from(
    { length: 10 },
    (_, i) =>
      new Worker(path.resolve('build/board-thread.mjs'), {
        workerData: {
          node: from[i % from.length],
          flashDir: path.join(product.options.dataFolder, 'standins', from[i % from.length] ?? ''),
          deviceDir: 'device',
          shimDir: 'standins/board/shims',
          seed: i,
          broker: { url: `mqtt://127.0.0.1:${product.options.mqttPort}`, name: 'standin', password: 'standin-pass' },
        },
        stderr: true,
      }),
  )
  await until(() => product.workshop.all().filter((n) => n.live.status?.is === 'online').length >= 4, 60_000)
  await new Promise((r) => setTimeout(r, 5000))
  // The threads’ own time alone: the broker and the database of this process are left out.
  const used = () => workers.reduce((sum, w) => sum + w.performance.eventLoopUtilization().active, 0)
  const [began, before] = [performance.now(), used()]
  await new Promise((r) => setTimeout(r, 20_000))
  rows.push([
    'ten simulated boards, 50 steps a second',
    `${(((used() - before) / (performance.now() - began)) * 100).toFixed(0)} % of one core`,
    '< 100 %',
  ])
  for (const w of workers) await w.terminate()
  await product.stop()
}

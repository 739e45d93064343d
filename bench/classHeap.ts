import fs from 'node:fs'
import path from 'node:path'
import { Worker } from 'node:worker_threads'
import { builtInCatalog as catalog } from '../src/core/catalog/catalog'
import { isSmall } from '../src/core/bundle/chipClass'
import { needOf } from '../src/core/bundle/memoryNeed'
import { type Design, designSchema } from '../src/core/model/design'
import { canonicalJson } from '../src/core/hash/canonicalJson'
import { compile } from '../src/core/nodefile/compile'
import { bareBroker } from './bareBroker'
import { freePort, tempFolder } from '../tests/support/product'
import { type Surroundings, surroundings } from '../src/core/surroundings/surroundings'
import { shopSchema } from '../src/core/shop/shop'
import { shopWithSenders } from '../tests/support/sendersAround'

interface Result {
  ok: boolean
  why?: string
  short?: number
  alloc?: number
  state?: string
  stages?: Record<string, number>
}
const KIB = 1024
const STEPS = 2500
/** A trial that takes longer than this hangs. */
const LONGEST_MS = 60_000
/**
 * Table of the 400 names a node brings: 10, 20, 40 … 320 entries of a pointer, a hash and a length, as boards have it.
 */
const NAMES_B = 630 * 6

/**
 * Every demo node in a hard-limited heap with as much free at the prompt as its class has: from source and precompiled.
 */
export async function classHeap(rows: [string, string, string][]): Promise<void> {
  const port = await freePort()
  const broker = await bareBroker(port)
  const kib = (n: number | undefined) => `${((n ?? NaN) / KIB).toFixed(1)} KiB`
  for (const name of fs.readdirSync('demo/designs').sort()) {
    if (process.env.NODES && !process.env.NODES.includes(name.replace('.json', ''))) continue
    const design: Design = designSchema.parse(JSON.parse(fs.readFileSync(`demo/designs/${name}`, 'utf8')))
    const shop = shopSchema.parse(JSON.parse(fs.readFileSync('demo/shop.json', 'utf8')))
    const many = process.env.SENDERS ? shopWithSenders(shop, design.id, Number(process.env.SENDERS)) : shop
    const around: Surroundings = surroundings(design, many, [{ id: design.id, slug: 'bench' }])
    const { interpreter } = catalog.boards[design.board.id] ?? { interpreter: { heapB: 0, chip: '32-class' as const } }
    const made = compile({ ...design, slug: 'bench' }, around, catalog, { host: '127.0.0.1', port, root: 'vn' }, 1)
    if (!made.ok) throw new Error(made.reasons.join())
    const flashDir = tempFolder()
    fs.writeFileSync(path.join(flashDir, 'node.json'), made.compiled.text)
    fs.writeFileSync(path.join(flashDir, 'td.json'), canonicalJson(made.compiled.td))
    fs.writeFileSync(
      path.join(flashDir, 'secret.json'),
      JSON.stringify({
        broker: { name: 'n', password: 'p' },
        networks: { [design.network.ref]: [{ name: 'a', password: 'b' }] },
        key: '00'.repeat(48),
        n: 0,
      }),
    )
    const trial = (deviceDir: string, heapBytes: number, limited: boolean) =>
      new Promise<Result>((resolve, reject) => {
        const worker = new Worker(path.resolve('build/heap-trial.mjs'), {
          workerData: { flashDir, deviceDir, sourceDir: 'device', heapBytes, limited, steps: STEPS },
          stderr: true,
          stdout: true,
        })
        let last = ''
        worker.once('error', reject).on('message', (m: Result | { at: number; said: string[] }) => {
          if ('at' in m) last = `at step ${m.at}: ${m.said.join(' ')}`
          else resolve(m)
        })
        setTimeout(() => {
          resolve({ ok: false, why: `stuck ${last}` })
          void worker.terminate()
        }, LONGEST_MS).unref()
      })
    const results: string[] = []
    for (const deviceDir of ['device', isSmall(interpreter.chip) ? 'build/device-small' : 'build/device']) {
      // How much of a heap the interpreter and what a board has in its firmware take here.
      const first = await trial(deviceDir, 512 * KIB, true)
      const within = first.stages?.interpreter ?? 0
      // Three bits of each block of sixteen bytes are the collector's own.
      const run = await trial(deviceDir, Math.round(((within + interpreter.heapB - NAMES_B) * 131) / 128), true)
      const left = interpreter.heapB - NAMES_B - ((run.alloc ?? NaN) - within)
      results.push(
        run.ok && ['up', 'asleep'].includes(run.state ?? '')
          ? `runs, ${kib(left)} left${run.short ? `, ran short ${run.short} times` : ''}`
          : `does not: ${(run.why ?? run.state ?? '').trim().split('\n').slice(-2).join(' ')}`.slice(0, 110),
      )
      if (deviceDir !== 'device') results.push(`uses ${kib((first.alloc ?? NaN) - within + NAMES_B)}`)
    }
    const need = needOf(made.compiled.file, interpreter.chip)
    rows.push([
      `${name.replace('.json', '')}, ${interpreter.chip}, ${kib(interpreter.heapB)} free: from source; precompiled`,
      results.join('; '),
      `reckoned ${kib(need.totalB)}`,
    ])
  }
  await broker.close()
}

import fs from 'node:fs'
import path from 'node:path'
import { randomUUID } from 'node:crypto'
import { Worker } from 'node:worker_threads'
import pLimit from 'p-limit'
import type { EditBody } from '../../src/core/edits/edit'
import type { Design } from '../../src/core/model/design'
import type { Product } from '../../src/server/product'
import type { Deed } from '../../src/wire/deeds'
import { after, slipTank } from './designs'
import { type Heard, listen, PASSWORDS, tempFolder } from './product'

/** A piece of the runtime's source to leave out, and what stands there instead: the control of a guard. */
export interface Without {
  file: string
  find: string
  put: string
}

/**
 * The runtime with a guard taken out, in a folder of its own. The text must be there: a guard that is called otherwise
 * now fails here.
 */
export function runtimeWithout({ file, find, put }: Without): string {
  const dir = path.join(tempFolder(), 'device')
  fs.cpSync('device', dir, { recursive: true })
  const at = path.join(dir, file)
  const source = fs.readFileSync(at, 'utf8')
  if (!source.includes(find)) throw new Error(`${file} has no “${find}” to take out`)
  fs.writeFileSync(at, source.replace(find, put))
  return dir
}

let count = 0

/** Coming up is nearly all of a board's work: who comes up together makes each other late. */
const comingUp = pLimit(5)

/** A node of its own on the real broker: the slip tank's design with these edits, run by the shipped board thread. */
export async function raiseBoard(
  product: Product,
  outside: Awaited<ReturnType<typeof listen>>,
  edits: EditBody[] = [],
  { without, ticksMs, from = slipTank() }: { without?: Without; ticksMs?: number; from?: Design } = {},
) {
  const slug = `node-${++count}`
  const design: Design = {
    ...after(from, ...edits),
    id: randomUUID(),
    slug,
    name: slug,
    network: { ...from.network, keepAliveS: 4 },
  }
  const flashDir = path.join(product.options.dataFolder, 'standins', design.id)
  const base = `vn/${slug}`
  const deviceDir = without ? runtimeWithout(without) : 'device'
  const start = () =>
    new Worker(path.resolve('build/board-thread.mjs'), {
      workerData: {
        node: design.id,
        flashDir,
        deviceDir,
        shimDir: 'standins/board/shims',
        seed: 11 + count,
        ticksMs,
        deserted: true,
        broker: {
          url: `mqtt://127.0.0.1:${product.options.mqttPort}`,
          name: 'standin',
          password: PASSWORDS.standinPassword,
        },
      },
      stderr: true,
    })
  const log: string[] = []
  const here = (within = 30_000, since = 0) =>
    outside.until((h) => h.topic === `${base}/status` && h.text === '{"is":"online"}', within, since)
  const comeUp = async (since = 0) => {
    const begun = start()
    begun.stderr.on('data', (d: Buffer) => log.push(d.toString()))
    begun.on('error', (e) => log.push(String(e)))
    await here(30_000, since).catch((e: unknown) => {
      throw new Error(`${String(e)}; it said ${log.join('').slice(-2000)}`)
    })
    return begun
  }
  let startedAt = 0
  let worker = await comingUp(async () => {
    await product.workshop.add(design, 'test')
    await product.guest?.flash(design)
    startedAt = Date.now()
    return comeUp()
  })
  return {
    id: design.id,
    design,
    base,
    slug,
    log,
    startedAt,
    flashDir,
    here,
    deed: (deed: Deed) => product.guest?.ask(design.id, deed),
    /** Sends a command as the product does; the node's answer, or null when none comes. */
    command: async (signal: string, value: unknown, more: Record<string, unknown> = {}, within = 4000) => {
      const id = (more.id as string | undefined) ?? randomUUID()
      const from = outside.heard.length
      await product.link.publish(`${base}/${signal}/set`, JSON.stringify({ value, ...more, id }), false)
      const answer = await outside
        .until((h) => h.topic === `${base}/${signal}/done` && h.text.includes(id), within, from)
        .catch(() => null)
      return answer && (JSON.parse(answer.text) as { result: string; reason?: string })
    },
    heard: (leaf: string, match: (h: Heard) => boolean = () => true, within = 8000, from = 0) =>
      outside.until((h) => h.topic === `${base}/${leaf}` && match(h), within, from),
    /** Kills the thread and begins it anew from its flash: as pulling the plug does. */
    replug: async () => {
      const since = outside.heard.length
      await worker.terminate()
      worker = await comingUp(() => comeUp(since))
    },
    end: () => worker.terminate(),
  }
}
export type RaisedBoard = Awaited<ReturnType<typeof raiseBoard>>

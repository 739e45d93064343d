import fs from 'node:fs'
import path from 'node:path'
import { fileURLToPath } from 'node:url'
import { Worker } from 'node:worker_threads'
import { isSmall } from '../../src/core/bundle/chipClass'
import { builtInCatalog } from '../../src/core/catalog/catalog'
import { nodeFileSchema } from '../../src/core/nodefile/nodeFile'
import { startAir } from '../air/host'
import { startCable } from '../cable/host'
import type { ThreadData } from './thread'

/** One process for all simulated boards, a thread for each. Arguments: the folder of bundles, the project's folder. */
const threads = new Map<string, Worker>()
const [bundles, project] = process.argv.slice(2)
const url = process.env.VIVID_BROKER_URL
const password = process.env.VIVID_STANDIN_PASSWORD
if (!bundles || !project || !url || !password) {
  console.error('usage: VIVID_BROKER_URL=… VIVID_STANDIN_PASSWORD=… boards BUNDLES PROJECT')
  process.exit(2)
}
/** The runtime as this board would carry it: precompiled, on the smallest with short names. */
function deviceDir(node: string): string {
  const file = nodeFileSchema.safeParse(
    JSON.parse(fs.readFileSync(path.join(bundles ?? '', node, 'node.json'), 'utf8')),
  )
  const small = file.success && isSmall(builtInCatalog.boards[file.data.board]?.interpreter.chip ?? '32-class')
  return path.join(project ?? '', small ? 'build/device-small' : 'build/device')
}

process.on('disconnect', () => process.exit(0))

for (const node of fs.readdirSync(bundles).sort()) {
  if (!fs.existsSync(path.join(bundles, node, 'node.json'))) continue
  const workerData: ThreadData = {
    node,
    flashDir: path.join(bundles, node),
    deviceDir: deviceDir(node),
    sourceDir: path.join(project, 'device'),
    shimDir: path.join(project, 'standins/board/shims'),
    seed: [...node].reduce((sum, c) => sum * 31 + c.charCodeAt(0), 7),
    broker: { url, name: 'standin', password },
  }
  const thread = new Worker(path.join(path.dirname(fileURLToPath(import.meta.url)), 'board-thread.mjs'), { workerData })
  threads.set(node, thread)
  thread.on('error', (e) => {
    console.error(`${node}: the simulated board stopped: ${e.message}`)
    process.exitCode = 1
  })
}

startAir(bundles, threads, { url, password })
startCable(bundles, project, { url, password })

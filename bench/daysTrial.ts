import { parentPort, workerData } from 'node:worker_threads'
import { type DaysRun, liveDays } from '../standins/board/days'

const { seed, ...run } = workerData as Omit<DaysRun, 'random'> & { seed: number }
let state = seed
const random = () => (state = (state * 16_807) % 2_147_483_647) / 2_147_483_647
process.stderr.write = () => true
liveDays({ ...run, random })
  .then(
    (r) => parentPort?.postMessage(r),
    (e: unknown) => parentPort?.postMessage({ error: String(e).slice(0, 300) }),
  )
  .finally(() => process.exit(0))

import { parentPort, workerData } from 'node:worker_threads'
import { SimulatedBoard } from '../standins/board/board'

/**
 * One board with this much heap: does its file load, connect and run so many steps? And what is in use after each
 * stage.
 */
interface Trial {
  flashDir: string
  deviceDir: string
  sourceDir?: string
  heapBytes: number
  limited: boolean
  steps: number
}

const { flashDir, deviceDir, sourceDir, heapBytes, limited, steps } = workerData as Trial
// Each growth that is refused is told on this stream by the loader; hundreds of them say nothing.
process.stderr.write = () => true
const lines: string[] = []

async function trial(): Promise<object> {
  const board = await SimulatedBoard.start({
    flashDir,
    deviceDir,
    sourceDir,
    shimDir: 'standins/board/shims',
    random: Math.random,
    log: (l) => lines.push(l),
    heap: { bytes: heapBytes, limited },
  })
  for (let i = 0; i < steps; i++) {
    board.step()
    if (i % 25 === 0) parentPort?.postMessage({ at: i, said: lines.slice(-3) })
    if (board.broke !== null) return { ok: false, why: board.broke, steps: i }
    await new Promise((r) => setTimeout(r, 3))
  }
  // What the program went on from, but only because it is guarded.
  const short = lines.filter((l) => /MemoryError|no memory|vn network/.test(l)).length
  lines.length = 0
  board.python('import gc\ngc.collect()')
  board.python("print('@', gc.mem_alloc(), _node.client.state)")
  const [, alloc, at] = lines.find((l) => l.startsWith('@'))?.split(' ') ?? []
  const state = board.asleep ? 'asleep' : at
  let control = 'none'
  try {
    board.python(`x = bytearray(${heapBytes})`)
  } catch {
    control = 'MemoryError'
  }
  return {
    ok: true,
    short,
    alloc: Number(alloc),
    state,
    control,
    stages: board.stages,
    longestModelledMs: board.longestModelledMs,
  }
}

trial()
  .then(
    (r) => parentPort?.postMessage(r),
    (e: unknown) => parentPort?.postMessage({ ok: false, why: String(e).slice(-400) }),
  )
  .finally(() => process.exit(0))

import { parentPort } from 'node:worker_threads'
import { WORK, type WorkName } from './work'

// One piece of work at a time, beside the server: it holds up no page, no message and no stream.
parentPort?.on('message', ({ id, name, given }: { id: number; name: WorkName; given: unknown[] }) => {
  try {
    const work = WORK[name] as (...given: unknown[]) => unknown
    parentPort?.postMessage({ id, ok: true, result: work(...given) })
  } catch (e) {
    parentPort?.postMessage({ id, ok: false, reason: e instanceof Error ? e.message : String(e) })
  }
})

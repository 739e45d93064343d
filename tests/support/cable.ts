import { once } from 'node:events'
import path from 'node:path'
import { Worker } from 'node:worker_threads'
import { portNamed } from '../../src/cli/serialPort'
import type { Chip } from '../../src/core/bundle/chipClass'
import type { Trouble } from '../../standins/cable/cableBoard'
import type { CableThread, FromCable, ToCable } from '../../standins/cable/thread'
import { tempFolder } from './product'

/** The simulated board at a cable, in its thread; every `port()` is the same port anew. */
export async function plugIn(
  chip: Chip,
  { trouble = 'none' as Trouble, folder = tempFolder(), airFile = null as string | null } = {},
) {
  const workerData: CableThread = {
    chip,
    folder,
    hardware: '24a1600b7c3e',
    trouble,
    shimDir: path.resolve('standins/board/shims'),
    sourceDir: path.resolve('device'),
    airFile,
  }
  const thread = new Worker(path.resolve('build/cable-thread.mjs'), { workerData })
  const [{ port }] = (await once(thread, 'message')) as [FromCable]
  const tell = (what: ToCable) => thread.postMessage(what)
  return {
    name: `socket:127.0.0.1:${port}`,
    port: () => portNamed(`socket:127.0.0.1:${port}`),
    tell,
    end: async () => {
      tell({ stop: true })
      await once(thread, 'exit')
    },
  }
}

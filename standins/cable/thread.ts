import fs from 'node:fs'
import net from 'node:net'
import { parentPort, workerData } from 'node:worker_threads'
import { z } from 'zod'
import type { Chip } from '../../src/core/bundle/chipClass'
import { Deframer, encode, type Control } from '../../src/cable/frames'
import { CableBoard, type Trouble } from './cableBoard'

/** A board at a cable in a thread of its own; it is found at a port of this machine alone. */
export interface CableThread {
  chip: Chip
  folder: string
  hardware: string
  trouble: Trouble
  shimDir: string
  sourceDir: string
  /** Networks in the air, looked at again each second. */
  airFile: string | null
}
export type ToCable = { trouble: Trouble } | { pull: true } | { stop: true }
export interface FromCable {
  port: number
}

const data = workerData as CableThread
const STEP_MS = 20

let air: Record<string, string> | null = null
function listenToAir(): void {
  if (data.airFile === null) return
  try {
    air = z.record(z.string(), z.string()).parse(JSON.parse(fs.readFileSync(data.airFile, 'utf8')))
  } catch {
    air = null
  }
}
listenToAir()

const cable = await CableBoard.plugIn({
  ...data,
  board: { air: () => air },
  log: () => undefined,
})

/** A serial port is nobody's twice: whoever comes second is told so. */
const server = net.createServer({ noDelay: true }, (socket) => {
  const tell = (control: Control) => {
    if (!socket.destroyed) socket.write(encode({ kind: 'control', control }))
  }
  const frames = new Deframer()
  let mine = false
  const end = () => {
    if (mine) cable.close()
    mine = false
  }
  socket.on('error', end)
  socket.on('close', end)
  const control = (c: Control) => {
    if ('open' in c) {
      const why = cable.open(c.open, {
        say: (bytes) => {
          if (!socket.destroyed) socket.write(encode({ kind: 'data', bytes }))
        },
        gone: (reason) => {
          mine = false
          tell({ gone: reason })
          socket.end()
        },
      })
      if (why !== null) return tell({ refused: why })
      mine = true
      tell({ info: cable.info() })
      tell({ opened: true })
    } else if (mine && 'dtr' in c) cable.signals(c.dtr, c.rts)
    else if ('close' in c) {
      end()
      socket.end()
    }
  }
  socket.on('data', (bytes: Buffer) => {
    for (const frame of frames.take(new Uint8Array(bytes)))
      if (frame.kind === 'control') control(frame.control)
      else if (mine) cable.hear(frame.bytes)
  })
})
server.listen(0, '127.0.0.1', () => {
  const { port } = server.address() as net.AddressInfo
  parentPort?.postMessage({ port } satisfies FromCable)
})

setInterval(() => cable.step(), STEP_MS)
setInterval(listenToAir, 1000)

parentPort?.on('message', (what: ToCable) => {
  if ('trouble' in what) {
    cable.trouble = what.trouble
    cable.pull()
  } else if ('pull' in what) cable.pull()
  else {
    cable.stop()
    process.exit(0)
  }
})

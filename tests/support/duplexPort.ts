import type { Duplex } from 'node:stream'
import type { CablePort } from '../../src/cable/port'

/** A stream of Node's as a port without control lines. */
export function duplexPort(line: Duplex): CablePort {
  let readable: ReadableStream<Uint8Array> | null = null
  let writable: WritableStream<Uint8Array> | null = null
  return {
    get readable() {
      return readable
    },
    get writable() {
      return writable
    },
    open: () => {
      readable = new ReadableStream<Uint8Array>({
        start: (out) => {
          line.on('data', (b: Buffer) => out.enqueue(new Uint8Array(b)))
          line.on('close', () => {
            try {
              out.error(new Error('The device has been lost.'))
            } catch {
              /* closed before */
            }
          })
        },
      })
      writable = new WritableStream<Uint8Array>({
        write: (bytes) => new Promise((done, failed) => line.write(bytes, (e) => (e ? failed(e) : done()))),
      })
      return Promise.resolve()
    },
    close: () => {
      line.destroy()
      return Promise.resolve()
    },
    setSignals: () => Promise.resolve(),
    getInfo: () => ({}),
  }
}

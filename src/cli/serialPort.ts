import net from 'node:net'
import type { SerialPort as Port } from 'serialport'
import { busy, type CablePort, CableTrouble, NO_PORT } from '../cable/port'
import { SocketPort } from '../cable/socketPort'

const machinePort = async (path: string, baudRate: number): Promise<Port> => {
  const { SerialPort } = await import('serialport')
  return new SerialPort({ path, baudRate, autoOpen: false })
}
const notOpened = (path: string, why: string): Error => {
  if (/no such file|cannot find/i.test(why)) return new CableTrouble(`There is no port ${path}.`, NO_PORT)
  return /inappropriate ioctl/i.test(why) ? new CableTrouble(`${path} is no serial port.`, NO_PORT) : busy(why)
}
const noLines = (path: string, why: string): CableTrouble =>
  new CableTrouble(`${path} has no control lines (${why}), and a board is started and written by them.`)

/** A serial port of this machine as the browser would show it: bytes both ways, and the two control lines. */
export class MachinePort implements CablePort {
  readable: ReadableStream<Uint8Array> | null = null
  writable: WritableStream<Uint8Array> | null = null
  private port: Port | null = null
  /** As they stand: the library would let go of the one that is not named, the browser leaves it. */
  private lines = { dtr: false, rts: false }

  constructor(
    readonly path: string,
    private readonly make = machinePort,
  ) {}

  getInfo(): { usbVendorId?: number; usbProductId?: number } {
    return {}
  }

  async open({ baudRate }: { baudRate: number }): Promise<void> {
    const port = await this.make(this.path, baudRate)
    await new Promise<void>((done, failed) => port.open((e) => (e ? failed(notOpened(this.path, e.message)) : done())))
    this.port = port
    this.readable = new ReadableStream<Uint8Array>({
      start: (out) => {
        port.on('data', (bytes: Buffer) => out.enqueue(new Uint8Array(bytes)))
        const end = (e?: Error | null) => {
          if (this.port !== port) return
          this.port = null
          this.readable = this.writable = null
          out.error(e ?? new Error('The device has been lost.'))
        }
        port.on('close', end)
        port.on('error', end)
      },
    })
    this.writable = new WritableStream<Uint8Array>({
      write: (bytes) =>
        new Promise<void>((done, failed) => {
          port.write(Buffer.from(bytes), (e) => e && failed(e))
          port.drain((e) => (e ? failed(e) : done()))
        }),
    })
  }

  async setSignals(signals: { dataTerminalReady?: boolean; requestToSend?: boolean }): Promise<void> {
    const { port } = this
    if (!port) throw new Error('The device has been lost.')
    const { dataTerminalReady: dtr = this.lines.dtr, requestToSend: rts = this.lines.rts } = signals
    this.lines = { dtr, rts }
    await new Promise<void>((done, failed) =>
      port.set({ ...this.lines }, (e) => (e ? failed(noLines(this.path, e.message)) : done())),
    )
  }

  async close(): Promise<void> {
    const { port } = this
    this.port = null
    this.readable = this.writable = null
    if (port?.isOpen) await new Promise<void>((done) => port.close(() => done()))
  }
}

/** The port of this name; `socket:HOST:PORT` is one at the other end of a socket. */
export function portNamed(name: string): CablePort {
  const far = /^socket:(.+):(\d+)$/.exec(name)
  if (!far) return new MachinePort(name)
  return new SocketPort(
    () =>
      new Promise((done, failed) => {
        const socket = net.connect(Number(far[2]), far[1] ?? '127.0.0.1')
        socket.setNoDelay(true)
        socket.once('error', (e) => failed(new CableTrouble(`There is no port at ${name}: ${e.message}.`)))
        socket.once('connect', () =>
          done({
            send: (bytes) => socket.write(bytes),
            onBytes: (take) => socket.on('data', (b: Buffer) => take(new Uint8Array(b))),
            onEnd: (ended) => socket.once('close', ended),
            end: () => socket.end(),
          }),
        )
      }),
  )
}

/** Ports of this machine that may have a board behind them. */
export async function ports(): Promise<string[]> {
  const { SerialPort } = await import('serialport')
  return (await SerialPort.list()).flatMap((p) => (p.vendorId === undefined ? [] : [p.path]))
}

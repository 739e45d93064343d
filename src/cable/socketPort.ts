import { type Control, Deframer, encode } from './frames'
import { type CablePort, CableTrouble, NO_PORT } from './port'

/** Bytes one way and the other, as they come. */
export interface Socket {
  send(bytes: Uint8Array): void
  onBytes(take: (bytes: Uint8Array) => void): void
  onEnd(ended: () => void): void
  end(): void
}

const ANSWER_MS = 5000

/** A port at the other end of a socket. Every `open` is a connection of its own: a port that went away comes back. */
export class SocketPort implements CablePort {
  readable: ReadableStream<Uint8Array> | null = null
  writable: WritableStream<Uint8Array> | null = null
  private socket: Socket | null = null
  private info: { usbVendorId?: number; usbProductId?: number } = {}
  private lines = { dtr: false, rts: false }

  constructor(private readonly connect: () => Promise<Socket>) {}

  getInfo(): { usbVendorId?: number; usbProductId?: number } {
    return this.info
  }

  async open({ baudRate }: { baudRate: number }): Promise<void> {
    if (this.socket) throw new CableTrouble('The port is open already.')
    const socket = await this.connect()
    let controller: ReadableStreamDefaultController<Uint8Array> | null = null
    const readable = new ReadableStream<Uint8Array>({
      start: (c) => {
        controller = c
      },
    })
    const gone = (why: string) => {
      if (this.socket !== socket) return
      this.socket = null
      try {
        controller?.error(lost(why))
      } catch {
        /* nobody reads any more */
      }
      this.readable = this.writable = null
      socket.end()
    }
    let answer: (c: Control) => void = () => undefined
    const answered = new Promise<Control>((done, failed) => {
      answer = done
      setTimeout(() => failed(new CableTrouble('The simulated board does not answer.')), ANSWER_MS)
    })
    const frames = new Deframer()
    socket.onBytes((bytes) => {
      for (const frame of frames.take(bytes)) {
        if (frame.kind === 'data') {
          if (this.socket === socket) controller?.enqueue(frame.bytes)
        } else if ('gone' in frame.control) gone(frame.control.gone)
        else if ('info' in frame.control) this.info = frame.control.info
        else answer(frame.control)
      }
    })
    socket.onEnd(() => {
      answer({ refused: 'There is no port: nothing is plugged in.' })
      gone('The device has been lost.')
    })
    socket.send(encode({ kind: 'control', control: { open: baudRate } }))
    const said = await answered
    if ('refused' in said) {
      socket.end()
      throw new CableTrouble(said.refused, NO_PORT)
    }
    this.socket = socket
    this.readable = readable
    this.writable = new WritableStream<Uint8Array>({
      write: (bytes) => {
        if (this.socket !== socket) throw lost('The device has been lost.')
        socket.send(encode({ kind: 'data', bytes }))
      },
    })
    this.tellLines()
  }

  setSignals({
    dataTerminalReady,
    requestToSend,
  }: {
    dataTerminalReady?: boolean
    requestToSend?: boolean
  }): Promise<void> {
    this.lines = { dtr: dataTerminalReady ?? this.lines.dtr, rts: requestToSend ?? this.lines.rts }
    this.tellLines()
    return Promise.resolve()
  }

  private tellLines(): void {
    this.socket?.send(encode({ kind: 'control', control: this.lines }))
  }

  async close(): Promise<void> {
    const { socket, readable, writable } = this
    this.socket = null
    this.readable = this.writable = null
    if (!readable?.locked) await readable?.cancel().catch(() => undefined)
    if (!writable?.locked) await writable?.abort().catch(() => undefined)
    socket?.send(encode({ kind: 'control', control: { close: true } }))
    socket?.end()
  }
}

/** As the browser says it of a port whose cable was pulled. */
function lost(why: string): Error {
  const e = new Error(why)
  e.name = 'NetworkError'
  return e
}

import { type CablePort, openPatiently } from './port'

const KEPT = 16_384

/** A port that remembers the last of what came through it: the loader's library throws away what it does not understand. */
export class Recorded implements CablePort {
  /** Bytes that have come in all. */
  bytes = 0
  text = ''
  readable: ReadableStream<Uint8Array> | null = null
  /** Rejects when the port goes away while it is open. */
  readonly lost: Promise<never>
  private loses: (e: unknown) => void = () => undefined

  constructor(private readonly port: CablePort) {
    this.lost = new Promise<never>((_, failed) => {
      this.loses = failed
    })
    this.lost.catch(() => undefined)
  }

  get writable(): WritableStream<Uint8Array> | null {
    return this.port.writable
  }

  getInfo(): { usbVendorId?: number; usbProductId?: number } {
    return this.port.getInfo()
  }

  async open(options: { baudRate: number; bufferSize?: number }): Promise<void> {
    await openPatiently(this.port, options)
    const reader = this.port.readable?.getReader()
    this.readable = new ReadableStream<Uint8Array>({
      pull: async (out) => {
        const read = reader?.read() ?? Promise.resolve({ value: undefined })
        const { value } = await read.catch((e: unknown) => {
          this.loses(e)
          throw e
        })
        if (value === undefined) return out.close()
        this.keep(value)
        out.enqueue(value)
      },
      cancel: async () => {
        await reader?.cancel().catch(() => undefined)
        reader?.releaseLock()
      },
    })
  }

  private keep(bytes: Uint8Array): void {
    this.bytes += bytes.length
    let text = ''
    for (const b of bytes) text += String.fromCharCode(b)
    this.text = (this.text + text).slice(-KEPT)
  }

  setSignals(signals: { dataTerminalReady?: boolean; requestToSend?: boolean }): Promise<void> {
    return this.port.setSignals(signals)
  }

  async close(): Promise<void> {
    await this.readable?.cancel().catch(() => undefined)
    this.readable = null
    await this.port.close()
  }
}

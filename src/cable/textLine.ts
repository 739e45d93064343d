import { type CablePort, openPatiently } from './port'

/** An open port as a line of text, bytes as Latin-1 letters: what comes is gathered, and told to whoever listens. */
export class TextLine {
  gone = false
  private heard = ''
  private wake: () => void = () => undefined
  private reader: ReadableStreamDefaultReader<Uint8Array> | null = null
  private pump: Promise<void> = Promise.resolve()

  private constructor(
    readonly port: CablePort,
    private readonly listen: (text: string) => void,
  ) {}

  static async open(
    port: CablePort,
    baudRate: number,
    listen: (text: string) => void = () => undefined,
  ): Promise<TextLine> {
    await openPatiently(port, { baudRate, bufferSize: 16_384 })
    const line = new TextLine(port, listen)
    line.pump = line.read()
    return line
  }

  private async read(): Promise<void> {
    try {
      const reader = this.port.readable?.getReader()
      if (!reader) return
      this.reader = reader
      for (;;) {
        const { value, done } = await reader.read()
        if (done) break
        let text = ''
        for (const byte of value) text += String.fromCharCode(byte)
        this.heard += text
        this.listen(text)
        this.wake()
      }
    } catch {
      /* the port is gone: whoever waits hears it by `gone` */
    } finally {
      this.reader?.releaseLock()
      this.gone = true
      this.wake()
    }
  }

  async write(text: string): Promise<void> {
    if (this.gone) return
    const writer = this.port.writable?.getWriter()
    try {
      await writer?.write(Uint8Array.from(text, (c) => c.charCodeAt(0) & 0xff))
    } catch {
      this.gone = true
      this.wake()
    } finally {
      writer?.releaseLock()
    }
  }

  /** Forgets what has been heard and not asked for. */
  forget(): void {
    this.heard = ''
  }

  get tail(): string {
    return this.heard.slice(-60)
  }

  /** What came before `mark`; null when it has not come in time or the line has ended. */
  async until(mark: string, ms: number): Promise<string | null> {
    const end = Date.now() + ms
    for (;;) {
      const at = this.heard.indexOf(mark)
      if (at >= 0) {
        const before = this.heard.slice(0, at)
        this.heard = this.heard.slice(at + mark.length)
        return before
      }
      const left = end - Date.now()
      if (left <= 0 || this.gone) return null
      await new Promise<void>((r) => {
        const timer = setTimeout(r, left)
        this.wake = () => {
          clearTimeout(timer)
          r()
        }
      })
    }
  }

  /** Takes the board through a reset by the control lines, where the adapter has them. */
  async reset(): Promise<void> {
    await this.port.setSignals({ dataTerminalReady: false, requestToSend: true })
    await new Promise((r) => setTimeout(r, 100))
    await this.port.setSignals({ dataTerminalReady: false, requestToSend: false })
  }

  async close(): Promise<void> {
    this.gone = true
    await this.reader?.cancel().catch(() => undefined)
    await this.pump
    await this.port.close().catch(() => undefined)
  }
}

import type { Socket } from 'node:net'
import { Duplex } from 'node:stream'
import { PacketLimit } from './packetLimit'

/** Bytes a client may leave unread at once, and how long it may leave any unread without taking some. */
export const UNREAD = { bytes: 16 * 1024 * 1024, ms: 15_000 } as const
const LOOK_MS = 1_000
const CALM_LOOK_MS = 5
/** One whose queue is bounded elsewhere may stand still for this long. */
const TRUSTED_MS = 60_000

/**
 * One client's connection as the broker sees it: incoming packets limited in size, and never in the way of others when
 * it does not read. What it leaves unread waits here, within bounds; beyond them the line is cut, and `onCut` told why.
 */
export class Line extends Duplex {
  readonly address: string
  private readonly limit = new PacketLimit()
  private bounds: { bytes: number; ms: number } = UNREAD
  private waitsSince: number | null = null
  private taken = 0
  private corked = false
  private readonly watch: NodeJS.Timeout

  constructor(
    private readonly socket: Socket,
    private readonly onCut: (line: Line, why: string) => void,
  ) {
    // Nobody above ever waits for this one: the bounds are kept here.
    super({ writableHighWaterMark: Number.MAX_SAFE_INTEGER })
    this.address = socket.remoteAddress ?? ''
    this.limit.on('error', (e) => this.destroy(e))
    socket.on('error', (e) => this.destroy(e))
    socket.on('close', () => this.destroy())
    socket.pipe(this.limit)
    this.limit.on('data', (piece: Buffer) => {
      if (!this.push(piece)) this.limit.pause()
    })
    this.limit.on('end', () => this.push(null))
    this.watch = setInterval(() => this.look(), LOOK_MS)
  }

  /** True once nobody is there to answer to. */
  get gone(): boolean {
    return this.destroyed || this.socket.destroyed
  }

  /** Bytes its client has not read yet. */
  get unread(): number {
    return this.socket.writableLength
  }

  /** Longer packets are taken from this one. */
  trust(largest: number): void {
    this.limit.largest = largest
    this.bounds = { bytes: Infinity, ms: TRUSTED_MS }
  }

  /** Resolves when less than this is unread, or after `ms`. */
  async calm(bytes: number, ms: number): Promise<void> {
    const end = Date.now() + ms
    while (!this.gone && this.unread > bytes && Date.now() < end) await new Promise((r) => setTimeout(r, CALM_LOOK_MS))
  }

  override _read(): void {
    this.limit.resume()
  }

  override _write(piece: Buffer, _: BufferEncoding, done: (e?: Error | null) => void): void {
    if (!this.socket.destroyed) this.together(piece)
    if (this.socket.writableLength > this.bounds.bytes) this.cut(`left ${this.socket.writableLength} bytes unread`)
    done()
  }

  /** What is said in one turn of the loop goes out as one piece: answers are a few bytes each, and many. */
  private together(piece: Buffer): void {
    if (!this.corked) {
      this.corked = true
      this.socket.cork()
      setImmediate(() => {
        this.corked = false
        this.socket.uncork()
      })
    }
    this.socket.write(piece)
  }

  override _final(done: () => void): void {
    this.socket.end()
    done()
  }

  override _destroy(e: Error | null, done: (e: Error | null) => void): void {
    clearInterval(this.watch)
    this.limit.destroy()
    // What has been said last still goes out, a refusal above all.
    if (e) this.socket.destroy()
    else this.socket.end(() => this.socket.destroy())
    setTimeout(() => this.socket.destroy(), LOOK_MS).unref()
    done(e)
  }

  private look(): void {
    const { socket } = this
    const waits = socket.writableLength > 0
    if (!waits || socket.bytesWritten - socket.writableLength > this.taken) this.waitsSince = waits ? Date.now() : null
    this.taken = socket.bytesWritten - socket.writableLength
    if (this.waitsSince !== null && Date.now() - this.waitsSince > this.bounds.ms)
      this.cut(`has read nothing for ${this.bounds.ms / 1000} s`)
  }

  private cut(why: string): void {
    if (this.destroyed) return
    this.onCut(this, why)
    this.destroy(new Error(why))
  }
}

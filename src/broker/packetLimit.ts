import { Transform, type TransformCallback } from 'node:stream'

/** Largest packet a client may send, bytes without its fixed header. */
export const LARGEST_PACKET = 64 * 1024

/**
 * Follows the fixed headers of an MQTT byte stream and fails with PacketTooLarge as soon as one announces more than is
 * allowed, before a byte of it is kept. A length of more than four bytes is malformed and fails as well.
 */
export class PacketLimit extends Transform {
  largest = LARGEST_PACKET
  private left = 0
  private length = 0
  private shift = 0
  private state: 'type' | 'length' | 'body' = 'type'

  override _transform(chunk: Buffer, _encoding: BufferEncoding, done: TransformCallback): void {
    let at = 0
    while (at < chunk.length) {
      if (this.state === 'body') {
        const n = Math.min(this.left, chunk.length - at)
        at += n
        this.left -= n
        if (this.left === 0) this.state = 'type'
        continue
      }
      const byte = chunk[at++] ?? 0
      if (this.state === 'type') {
        this.state = 'length'
        this.length = this.shift = 0
        continue
      }
      this.length += (byte & 127) * 2 ** this.shift
      this.shift += 7
      if (byte & 128) {
        if (this.shift > 21) return done(new Error('a length of more than four bytes'))
        continue
      }
      if (this.length > this.largest)
        return done(new Error(`a message of ${this.length} bytes; at most ${this.largest} are taken`))
      this.left = this.length
      this.state = this.left > 0 ? 'body' : 'type'
    }
    done(null, chunk)
  }
}

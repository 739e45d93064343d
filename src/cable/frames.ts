/**
 * What goes over a socket in place of a serial port: bytes of the line, and what a serial port has besides. Each frame
 * is its kind, its length in two bytes, low first, and its content.
 */
export type Frame = { kind: 'data'; bytes: Uint8Array } | { kind: 'control'; control: Control }

export type Control =
  | { open: number }
  | { close: true }
  | { dtr: boolean; rts: boolean }
  /** The other way: done, or refused for this reason. */
  | { opened: true }
  | { refused: string }
  /** The port is no longer there: pulled, or a chip with USB of its own has started anew. */
  | { gone: string }
  | { info: { usbVendorId?: number; usbProductId?: number } }

const DATA = 1
const CONTROL = 2
const HEAD = 3
const LONGEST = 0xffff

/** Frames of one message; data longer than a frame holds is several. */
export function encode(frame: Frame): Uint8Array {
  if (frame.kind === 'control') return framed(CONTROL, new TextEncoder().encode(JSON.stringify(frame.control)))
  const parts: Uint8Array[] = []
  for (let at = 0; at < frame.bytes.length; at += LONGEST)
    parts.push(framed(DATA, frame.bytes.subarray(at, at + LONGEST)))
  return joined(parts)
}

function framed(kind: number, content: Uint8Array): Uint8Array {
  const out = new Uint8Array(HEAD + content.length)
  out.set([kind, content.length & 0xff, content.length >> 8])
  out.set(content, HEAD)
  return out
}

export function joined(parts: readonly Uint8Array[]): Uint8Array {
  const out = new Uint8Array(parts.reduce((n, p) => n + p.length, 0))
  let at = 0
  for (const part of parts) {
    out.set(part, at)
    at += part.length
  }
  return out
}

/** Takes bytes as they come and gives whole frames. A frame of another kind is passed over. */
export class Deframer {
  private left = new Uint8Array(0)

  take(bytes: Uint8Array): Frame[] {
    let rest = this.left.length === 0 ? bytes : joined([this.left, bytes])
    const frames: Frame[] = []
    for (;;) {
      const length = (rest[1] ?? 0) + 256 * (rest[2] ?? 0)
      if (rest.length < HEAD || rest.length < HEAD + length) break
      const content = rest.slice(HEAD, HEAD + length)
      if (rest[0] === DATA) frames.push({ kind: 'data', bytes: content })
      if (rest[0] === CONTROL)
        frames.push({ kind: 'control', control: JSON.parse(new TextDecoder().decode(content)) as Control })
      rest = rest.subarray(HEAD + length)
    }
    this.left = rest.slice()
    return frames
  }
}

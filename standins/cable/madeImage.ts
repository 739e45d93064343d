import { createHash } from 'node:crypto'

/** Numbers of the chips in an image's header, by the documentation of its format. */
const CHIP = { '32-class': 0x0, 'c3-class': 0x5, 's3-class': 0x9, 'c6-class': 0xd } as const

const words = (...n: number[]): Buffer => {
  const out = Buffer.alloc(4 * n.length)
  n.forEach((v, i) => out.writeUInt32LE(v >>> 0, 4 * i))
  return out
}

/** One program: header, a segment, its sum at the end of a block of 16, and a SHA-256 where the header promises it. */
function program(chip: number | null, content: Buffer, load: number): Buffer {
  const head =
    chip === null
      ? Buffer.from([0xe9, 1, 2, 0x40, 0, 0, 0x10, 0x40])
      : Buffer.concat([
          Buffer.from([0xe9, 1, 2, 0x20]),
          words(0x40080000),
          Buffer.from([0xee, 0, 0, 0, chip, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1]),
        ])
  const body = Buffer.concat([head, words(load, content.length), content])
  const padded = Buffer.concat([body, Buffer.alloc((31 - (body.length % 16)) % 16)])
  const sum = content.reduce((s, b) => s ^ b, 0xef)
  const whole = Buffer.concat([padded, Buffer.from([sum])])
  return chip === null ? whole : Buffer.concat([whole, createHash('sha256').update(whole).digest()])
}

/**
 * An interpreter's image that is none: laid out as the real ones are, filled with a pattern. `bytes` is about its length.
 */
export function madeImage(
  of: keyof typeof CHIP | '8266-class',
  { bytes = 60_000, version = '1.25.0', flash = 0x200000 } = {},
): Uint8Array {
  // Half of it compresses well, half does not: as programs do.
  let seed = 7
  const content = Buffer.from(
    Array.from({ length: bytes & ~3 }, (_, i) => {
      seed = (seed * 48_271) % 2_147_483_647
      return i % 2048 < 1024 ? seed & 0xff : i >> 8
    }),
  )
  if (of === '8266-class') return new Uint8Array(program(null, content, 0x40100000))
  const at = of === '32-class' ? 0x1000 : 0
  const described = Buffer.concat([
    words(0xabcd5432, 0, 0, 0),
    Buffer.from(`v${version}`.padEnd(32, '\0')),
    Buffer.alloc(208),
    content,
  ])
  const loader = program(CHIP[of], content.subarray(0, 4096), 0x3fff0018)
  const entry = (type: number, sub: number, offset: number, size: number, name: string) =>
    Buffer.concat([
      Buffer.from([0xaa, 0x50, type, sub]),
      words(offset, size),
      Buffer.from(name.padEnd(16, '\0')),
      words(0),
    ])
  const table = Buffer.concat([entry(1, 2, 0x9000, 0x6000, 'nvs'), entry(0, 0, 0x10000, flash - 0x10000, 'factory')])
  const out = Buffer.alloc(0x10000 - at, 0xff)
  loader.copy(out)
  table.copy(out, 0x8000 - at)
  // The description stands right behind the header and the first segment's own.
  return new Uint8Array(Buffer.concat([out, program(CHIP[of], described, 0x3f400020)]))
}

/** A file for the drive of the RP2040. */
export function madeDriveFile({ blocks = 40, family = 0xe48bff56 } = {}): Uint8Array {
  return new Uint8Array(
    Buffer.concat(
      Array.from({ length: blocks }, (_, n) =>
        Buffer.concat([
          words(0x0a324655, 0x9e5d5157, 0x2000, 0x10000000 + 256 * n, 256, n, blocks, family),
          Buffer.alloc(476, n),
          words(0x0ab16f30),
        ]),
      ),
    ),
  )
}

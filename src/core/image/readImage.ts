import type { Chip } from '../bundle/chipClass'
import { sha256Hex } from '../hash/sha256Hex'

/** First byte of an image, and of every program inside it. */
const MAGIC = 0xe9
/** Numbers of the chips of the 32 family: in bytes 12 and 13 of an image, and in what their loaders say. */
export const CHIP_OF: Readonly<Record<number, Chip>> = {
  0x0: '32-class',
  0x5: 'c3-class',
  0x9: 's3-class',
  0xd: 'c6-class',
}
/** Where the flash holds the partition table, and what its entries begin with. */
const TABLE = 0x8000
const ENTRY = 0x50aa
const ENTRY_BYTES = 32
const UF2 = { first: 0x0a324655, second: 0x9e5d5157, last: 0x0ab16f30, block: 512, rp2040: 0xe48bff56 } as const
/** What the description of a program begins with, and how far behind its start it stands. */
const DESCRIBED = { magic: 0xabcd5432, at: 0x20 } as const
const MB = 1024 * 1024

export interface Image {
  kind: 'flash' | 'drive'
  /** Class it is for; null where the file says another one than is known here. */
  chip: Chip | null
  /** Flash address the file begins at; null for one that is copied to a drive. */
  at: number | null
  bytes: number
  /** Flash it has to have, bytes, by the parts it is divided into; the file's own length where it names none. */
  needsFlash: number
  /** Version its program says it has. */
  version: string | null
  sha256: string
  /** What is wrong with the file itself; nothing for one that is whole. */
  faults: string[]
}

/** Reads the file's own words and sums; null where it is no image at all. Never throws. */
export function readImage(file: Uint8Array): Image | null {
  const view = new DataView(file.buffer, file.byteOffset, file.byteLength)
  if (word(view, 0) === UF2.first) return uf2(file, view)
  const begins = beginningOf(file)
  if (begins === null) return null
  const faults = [...sums(file, view, begins)]
  const entry = word(view, begins + 8) ?? 0
  const sha256 = sha256Hex(file)
  // No chip number there: bytes 8 to 11 are the address of the first segment, in the memory programs run from.
  if (begins === 0 && entry >>> 20 === 0x401)
    return {
      kind: 'flash',
      chip: '8266-class',
      at: 0,
      bytes: file.length,
      needsFlash: file.length,
      version: null,
      sha256,
      faults,
    }
  const number = half(view, begins + 12)
  const chip = number === null ? null : (CHIP_OF[number] ?? null)
  const at = chip === '32-class' && begins === 0 ? 0x1000 : 0
  const parts = partitions(view, TABLE - at)
  if (parts.length === 0)
    faults.push(
      'it is the program alone, without the table that divides the flash: take the whole image, which begins with the loader',
    )
  const apps = parts.filter((p) => p.type === 0)
  const app = apps[0]
  if (app && half(view, app.offset - at) === null)
    faults.push('it ends before its program begins: the file is cut short')
  else if (app && file[app.offset - at] !== MAGIC)
    faults.push('where its program should begin is none: the file is damaged')
  else if (app) faults.push(...sums(file, view, app.offset - at))
  return {
    kind: 'flash',
    chip,
    at,
    bytes: file.length,
    needsFlash: Math.max(at + file.length, ...parts.map((p) => p.offset + p.size)),
    version: app ? versionAt(file, view, app.offset - at) : null,
    sha256,
    faults: [...new Set(faults)],
  }
}

/** One that begins with the flash rather than with its program has nothing before the program's place. */
function beginningOf(file: Uint8Array): number | null {
  if (file[0] === MAGIC) return 0
  return file[0x1000] === MAGIC && blank(file, 0x1000) ? 0x1000 : null
}

const word = (view: DataView, at: number): number | null =>
  at >= 0 && at + 4 <= view.byteLength ? view.getUint32(at, true) : null
const half = (view: DataView, at: number): number | null =>
  at >= 0 && at + 2 <= view.byteLength ? view.getUint16(at, true) : null
const blank = (file: Uint8Array, until: number): boolean => file.subarray(0, until).every((b) => b === 0xff || b === 0)

/**
 * Faults of the program at `begins`: its segments have to end within the file, and the exclusive or of their bytes with
 * 0xEF stands behind them, at the end of a block of 16. Where byte 23 says so, a SHA-256 of all of it follows.
 */
function sums(file: Uint8Array, view: DataView, begins: number): string[] {
  const cut = ['it ends in the middle of its program: the file is cut short']
  const segments = file[begins + 1] ?? 0
  // The longer header belongs to the 32 family; the smaller chip's first segment follows at once.
  const small = (word(view, begins + 8) ?? 0) >>> 20 === 0x401
  let at = begins + (small ? 8 : 24)
  let sum = 0xef
  for (let n = 0; n < segments; n++) {
    const length = word(view, at + 4)
    if (length === null || length > file.length) return cut
    at += 8
    if (at + length > file.length) return cut
    for (let i = at; i < at + length; i++) sum ^= file[i] ?? 0
    at += length
  }
  const place = begins + (Math.floor((at - begins) / 16) + 1) * 16 - 1
  if (place >= file.length) return cut
  if (file[place] !== (sum & 0xff)) return ['its checksum is not that of its content: the file is damaged']
  if (small || file[begins + 23] !== 1) return []
  const digest = file.subarray(place + 1, place + 33)
  const said = [...digest].map((b) => b.toString(16).padStart(2, '0')).join('')
  return said === sha256Hex(file.subarray(begins, place + 1))
    ? []
    : ['its checksum is not that of its content: the file is damaged']
}

interface Part {
  type: number
  offset: number
  size: number
}

function partitions(view: DataView, at: number): Part[] {
  const parts: Part[] = []
  for (let i = at; half(view, i) === ENTRY && parts.length < 96; i += ENTRY_BYTES) {
    const [offset, size] = [word(view, i + 4), word(view, i + 8)]
    if (offset === null || size === null) break
    parts.push({ type: view.getUint8(i + 2), offset, size })
  }
  return parts
}

function versionAt(file: Uint8Array, view: DataView, program: number): string | null {
  const at = program + DESCRIBED.at
  if (word(view, at) !== DESCRIBED.magic) return null
  const text = new TextDecoder('latin1').decode(file.subarray(at + 16, at + 48)).replace(/\0[\s\S]*$/, '')
  return /\d+\.\d+(?:\.\d+)?/.exec(text)?.[0] ?? null
}

function uf2(file: Uint8Array, view: DataView): Image {
  const faults = new Set<string>()
  const families = new Set<number>()
  if (file.length % UF2.block !== 0) faults.add('it does not end with a whole block: the file is cut short')
  let content = 0
  const blocks = Math.floor(file.length / UF2.block)
  for (let n = 0; n < blocks; n++) {
    const at = n * UF2.block
    if (word(view, at) !== UF2.first || word(view, at + 4) !== UF2.second || word(view, at + 508) !== UF2.last) {
      faults.add('a block of it is not as it was made: the file is damaged')
      continue
    }
    families.add(word(view, at + 28) ?? 0)
    content += word(view, at + 16) ?? 0
    if (word(view, at + 20) !== n) faults.add('its blocks are not in order: the file is damaged')
    if ((word(view, at + 24) ?? 0) > blocks) faults.add('blocks are missing at its end: the file is cut short')
  }
  return {
    kind: 'drive',
    chip: families.size === 1 && families.has(UF2.rp2040) ? 'rp2040' : null,
    at: null,
    bytes: file.length,
    needsFlash: Math.min(content, 2 * MB),
    version: null,
    sha256: sha256Hex(file),
    faults: [...faults],
  }
}

import { createHash } from 'node:crypto'
import { type Chip, isSmall } from '../../src/core/bundle/chipClass'

/**
 * What the loader and the second one behind it say of what is in the flash; null where it starts. By the layout that the
 * chip maker documents: a header, segments, a sum behind them, a table of parts, a program.
 */
export function startsFrom(flash: Uint8Array, chip: Chip, at: number): string | null {
  const view = new DataView(flash.buffer, flash.byteOffset, flash.byteLength)
  const small = isSmall(chip)
  if (flash[at] !== 0xe9) {
    if (small) return 'ets_main.c \r\n'
    return `invalid header: 0x${view.getUint32(at, true).toString(16)}\r\n`.repeat(3)
  }
  if (!whole(flash, view, at, small)) return 'csum err:0x5a!=0xff\r\nets_main.c 371 \r\n'
  if (small) return null
  // Parts stand in the table until an entry that begins otherwise.
  for (let entry = 0x8000; view.getUint16(entry, true) === 0x50aa; entry += 32) {
    if (flash[entry + 2] !== 0) continue
    const program = view.getUint32(entry + 4, true)
    if (flash[program] === 0xe9 && whole(flash, view, program, false)) return null
    return `E (52) esp_image: image at 0x${program.toString(16)} has invalid magic byte\r\nE (60) boot: No bootable app partitions in the partition table\r\n`
  }
  return 'E (60) boot: No bootable app partitions in the partition table\r\n'
}

function whole(flash: Uint8Array, view: DataView, start: number, small: boolean): boolean {
  let at = start + (small ? 8 : 24)
  let sum = 0xef
  for (let n = flash[start + 1] ?? 0; n > 0; n--) {
    const length = view.getUint32(at + 4, true)
    at += 8
    if (at + length > flash.length) return false
    for (const end = at + length; at < end; at++) sum ^= flash[at] ?? 0
  }
  while ((at - start) % 16 !== 15) at++
  if (flash[at] !== sum) return false
  if (small || flash[start + 23] !== 1) return true
  const digest = createHash('sha256')
    .update(flash.subarray(start, at + 1))
    .digest()
  return digest.equals(flash.subarray(at + 1, at + 33))
}

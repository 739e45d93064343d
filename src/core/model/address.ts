import type { DesignPart } from './design'
import type { PartKind } from '../catalog/part'

/** 7-bit bus address of a part as it is set; the kind's usual one where nothing is. */
export function addressOf(part: DesignPart, kind: PartKind): number {
  const set = typeof part.settings.address === 'string' ? Number.parseInt(part.settings.address, 16) : NaN
  return Number.isNaN(set) ? (kind.i2c?.addresses[0] ?? 0) : set
}

/** `0x76`. */
export function addressWords(address: number): string {
  return `0x${address.toString(16).toUpperCase().padStart(2, '0')}`
}

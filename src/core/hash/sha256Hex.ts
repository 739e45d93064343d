import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js'

/** SHA-256 of bytes, or of a text's UTF-8, 64 hex digits. */
export function sha256Hex(of: string | Uint8Array): string {
  return bytesToHex(sha256(typeof of === 'string' ? utf8ToBytes(of) : of))
}

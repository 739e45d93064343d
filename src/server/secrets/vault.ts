import { createCipheriv, createHmac, randomBytes } from 'node:crypto'

const KEY_BYTES = 48

/** A node's own key as it stands in its credentials file: 16 bytes to encrypt with, 32 to sign with, hexadecimal. */
export function newNodeKey(): string {
  return randomBytes(KEY_BYTES).toString('hex')
}

/**
 * Seals a message for one node: start value, AES-128-CBC of the text, HMAC-SHA-256 over both, in base64.
 * CBC with a signature over all of it rather than GCM: it is what the chips' own library offers.
 */
export function sealFor(keyHex: string, text: string): string {
  const key = Buffer.from(keyHex, 'hex')
  if (key.length !== KEY_BYTES) throw new RangeError(`a node key has ${KEY_BYTES} bytes, found ${key.length}`)
  const iv = randomBytes(16)
  const cipher = createCipheriv('aes-128-cbc', key.subarray(0, 16), iv)
  const body = Buffer.concat([iv, cipher.update(text, 'utf8'), cipher.final()])
  return Buffer.concat([body, createHmac('sha256', key.subarray(16)).update(body).digest()]).toString('base64')
}

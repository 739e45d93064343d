import { createCipheriv, createDecipheriv, createHmac, randomBytes, scryptSync } from 'node:crypto'
import fs from 'node:fs'
import { writeForGood } from '../files/flush'

/**
 * Encrypts what must not be read off the disk. `about` is bound to the text: a sealed thing cannot stand in for
 * another.
 */
export interface Sealer {
  seal(text: string, about: string): string
  /** Throws SealBroken when the key is another one or the text was changed. */
  open(sealed: string, about: string): string
}

export class SealBroken extends Error {}

const IV_BYTES = 12
const TAG_BYTES = 16

/**
 * AES-256-GCM. The key comes from a passphrase, or from a file beside the data folder, made at the first use and
 * readable by its owner alone. Backups leave it out: without it stored passwords are lost, designs never.
 */
export function openSealer(dataFolder: string, passphrase: string | undefined): Sealer {
  const key = passphrase
    ? scryptSync(passphrase, 'vivid-node sealing', 32)
    : keyFile(`${dataFolder.replace(/\/+$/, '')}.key`)
  return {
    seal(text, about) {
      const iv = randomBytes(IV_BYTES)
      const cipher = createCipheriv('aes-256-gcm', key, iv).setAAD(Buffer.from(about))
      const body = Buffer.concat([cipher.update(text, 'utf8'), cipher.final()])
      return Buffer.concat([iv, cipher.getAuthTag(), body]).toString('base64url')
    },
    open(sealed, about) {
      const bytes = Buffer.from(sealed, 'base64url')
      try {
        const cipher = createDecipheriv('aes-256-gcm', key, bytes.subarray(0, IV_BYTES))
          .setAAD(Buffer.from(about))
          .setAuthTag(bytes.subarray(IV_BYTES, IV_BYTES + TAG_BYTES))
        return cipher.update(bytes.subarray(IV_BYTES + TAG_BYTES), undefined, 'utf8') + cipher.final('utf8')
      } catch {
        throw new SealBroken(
          `${about} cannot be opened with this key. Put back the key file or the passphrase it was stored under, or enter it anew.`,
        )
      }
    },
  }
}

function keyFile(file: string): Buffer {
  if (!fs.existsSync(file)) {
    writeForGood(file, randomBytes(32))
  }
  const key = fs.readFileSync(file)
  if (key.length !== 32)
    throw new SealBroken(
      `${file} is no key: ${key.length} bytes, 32 expected. Put back the right file, or move this one away to begin with a new key.`,
    )
  return key
}

/** A text and its signature under a password: who knows the password can tell that we wrote it. */
export function signer(password: string) {
  const key = scryptSync(password, 'vivid-node session', 32)
  const mark = (text: string) => createHmac('sha256', key).update(text).digest('base64url')
  return { sign: (text: string) => `${text}.${mark(text)}`, mark }
}

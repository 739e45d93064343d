import fs from 'node:fs'
import path from 'node:path'
import { Readable, Transform } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { createGunzip, createGzip } from 'node:zlib'
import { extract, type Header, pack } from 'tar-stream'

/** What is taken from an archive before it is given up: bytes unpacked, entries, time in ms. */
export interface ArchiveLimits {
  bytes: number
  entries: number
  ms: number
}

export const LIMITS: ArchiveLimits = { bytes: 8e9, entries: 50_000, ms: 600_000 }

export class ArchiveRefused extends Error {}

/** A folder as a compressed archive, read while it is sent. `done` is called once, however that ends. */
export function packFolder(folder: string, done: () => void): Readable {
  const tar = pack()
  const zip = createGzip({ level: 6 })
  const files = fs
    .readdirSync(folder, { withFileTypes: true, recursive: true })
    .sort((a, b) => pathOf(a).localeCompare(pathOf(b)))
  const feed = async () => {
    for (const entry of files) {
      const at = pathOf(entry)
      const name = `/${path.relative(folder, at)}`
      if (entry.isDirectory()) tar.entry({ name, type: 'directory', mode: 0o700 })
      else if (entry.isFile()) {
        const to = tar.entry({ name, size: fs.statSync(at).size, mode: 0o600 })
        await pipeline(fs.createReadStream(at), to)
      }
    }
    tar.finalize()
  }
  feed().catch((e: unknown) => tar.destroy(e instanceof Error ? e : new Error(String(e))))
  pipeline(tar, zip).then(done, (e: unknown) => {
    zip.destroy(e instanceof Error ? e : new Error(String(e)))
    done()
  })
  return zip
}

const pathOf = (e: fs.Dirent) => path.join(e.parentPath, e.name)

/**
 * Unpacks a compressed archive into a new folder, piece by piece: nothing of it is held in memory, and nothing is
 * written outside. Throws ArchiveRefused with a sentence when it is no such archive or goes beyond the limits; what was
 * written is then removed.
 */
export async function unpackFolder(from: Readable, folder: string, limits = LIMITS): Promise<void> {
  fs.mkdirSync(folder, { recursive: true, mode: 0o700 })
  const enough = AbortSignal.timeout(limits.ms)
  let bytes = 0
  let entries = 0
  const measure = new Transform({
    transform(piece: Buffer, _, next) {
      bytes += piece.length
      next(bytes > limits.bytes ? new ArchiveRefused(`it unpacks to more than ${limits.bytes} bytes`) : null, piece)
    },
  })
  const tar = extract()
  const write = async () => {
    for await (const entry of tar) {
      entries += 1
      if (entries > limits.entries) throw new ArchiveRefused(`it has more than ${limits.entries} entries`)
      const at = placeOf(folder, entry.header)
      if (entry.header.type === 'directory') {
        fs.mkdirSync(at, { recursive: true, mode: 0o700 })
        entry.resume()
      } else {
        fs.mkdirSync(path.dirname(at), { recursive: true, mode: 0o700 })
        await pipeline(entry, fs.createWriteStream(at, { mode: 0o600, flags: 'wx' }))
      }
    }
  }
  try {
    await Promise.all([pipeline(from, createGunzip(), measure, tar, { signal: enough }), write()])
    if (entries === 0) throw new ArchiveRefused('nothing is in it')
  } catch (e) {
    fs.rmSync(folder, { recursive: true, force: true })
    if (enough.aborted) throw new ArchiveRefused(`unpacking took longer than ${limits.ms / 1000} s`)
    throw e
  }
}

function placeOf(folder: string, { name, type }: Header): string {
  const at = path.join(folder, name)
  const inside = at === folder || at.startsWith(folder + path.sep)
  if (!inside || name.split('/').includes('..') || name.includes('\0'))
    throw new ArchiveRefused(`an entry “${name.slice(0, 80)}” lies outside of it`)
  if (type !== 'file' && type !== 'directory')
    throw new ArchiveRefused(`“${name.slice(0, 80)}” is a ${String(type)}, not a file`)
  return at
}

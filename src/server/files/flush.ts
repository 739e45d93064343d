import fs from 'node:fs'
import path from 'node:path'

/** Has what is in an open file, or the entries of a directory, written to the disk itself before it returns. */
export function flushFile(file: string): void {
  const fd = fs.openSync(file, 'r')
  try {
    fs.fsyncSync(fd)
  } catch (e) {
    // Some systems keep no directory open for this; theirs are written with the files in them.
    if (!(isCode(e, 'EISDIR') || isCode(e, 'EPERM') || isCode(e, 'EINVAL'))) throw e
  } finally {
    fs.closeSync(fd)
  }
}

/** A whole folder, deepest first, and the entry it has in the one it stands in. */
export function flushFolder(folder: string): void {
  for (const entry of fs.readdirSync(folder, { withFileTypes: true })) {
    const at = path.join(folder, entry.name)
    if (entry.isDirectory()) flushFolder(at)
    else if (entry.isFile()) flushFile(at)
  }
  flushFile(folder)
}

/** Renames, and returns when the disk has the new entry. */
export function renameForGood(from: string, to: string): void {
  fs.renameSync(from, to)
  const [a, b] = [path.dirname(from), path.dirname(to)]
  flushFile(b)
  if (a !== b) flushFile(a)
}

/** The file holds this text, or what it held before, whatever happens meanwhile; when this returns, the disk has it. */
export function writeForGood(file: string, data: string | Uint8Array, mode = 0o600): void {
  const part = `${file}.part`
  fs.writeFileSync(part, data, { mode, flush: true })
  renameForGood(part, file)
}

export const isCode = (e: unknown, code: string): boolean => e instanceof Error && 'code' in e && e.code === code

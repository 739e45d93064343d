import fs from 'node:fs'
import path from 'node:path'
import { diskWords, FolderTrouble } from '../files/dataFolder'
import { flushFile, isCode } from '../files/flush'
import { startOf } from '../files/startOf'

export class FolderInUse extends Error {}

interface Holder {
  pid: number
  started: string
}

/**
 * Takes the data folder for this process. The database itself lets a second process in and then loses rows, so the lock
 * is ours. A lock whose holder is gone (after a kill) is taken over; a living holder's is not: throws FolderInUse. The
 * process's start time guards against a number that has been given to another process since.
 */
export function lockFolder(folder: string): () => void {
  makeFolder(folder)
  const file = path.join(folder, 'in-use.json')
  const me: Holder = { pid: process.pid, started: startOf(process.pid) ?? '' }
  for (let attempt = 0; attempt < 2; attempt++) {
    try {
      fs.writeFileSync(file, JSON.stringify(me), { flag: 'wx', mode: 0o600 })
      return () => fs.rmSync(file, { force: true })
    } catch (e) {
      if (!isCode(e, 'EEXIST')) throw inWords(e, folder)
    }
    const holder = readHolder(file)
    if (holder && startOf(holder.pid) !== null && startOf(holder.pid) === holder.started) {
      throw new FolderInUse(
        `The data folder ${folder} is in use by process ${holder.pid}. Stop that one, or start this one with another folder (VIVID_DATA).`,
      )
    }
    fs.rmSync(file, { force: true })
  }
  throw new FolderInUse(`The data folder ${folder} could not be locked: another process is taking it at this moment.`)
}

/** The folder and those above it that are not there yet, each with its entry on the disk. */
function makeFolder(folder: string): void {
  try {
    const first = fs.mkdirSync(folder, { recursive: true, mode: 0o700 })
    if (first === undefined) return
    for (let at = folder; at.length >= first.length; at = path.dirname(at)) flushFile(path.dirname(at))
  } catch (e) {
    throw inWords(e, folder)
  }
}

function inWords(e: unknown, folder: string): unknown {
  const words = diskWords(e, folder)
  return words === null ? e : new FolderTrouble(words)
}

function readHolder(file: string): Holder | null {
  try {
    const value: unknown = JSON.parse(fs.readFileSync(file, 'utf8'))
    if (
      typeof value === 'object' &&
      value !== null &&
      'pid' in value &&
      'started' in value &&
      typeof value.pid === 'number' &&
      typeof value.started === 'string'
    ) {
      return { pid: value.pid, started: value.started }
    }
  } catch {
    /* an unreadable lock is a stale one */
  }
  return null
}

import fs from 'node:fs'
import path from 'node:path'
import { z } from 'zod'
import { flushFile, isCode, renameForGood, writeForGood } from './flush'

/** The data folder cannot be started as it is: which, what is wrong, what there is to bring back, and how. */
export class FolderTrouble extends Error {}

/** A database kept beside the one in use, or what an interrupted restore has left. */
export interface Copy {
  name: string
  kind: 'database' | 'leftover'
  bytes: number
  /** ISO 8601. */
  at: string
}

const JOURNAL = 'exchange.json'
/** Somebody's word that the folder may begin anew, until it has. */
const ANEW = 'begin-anew'
const COPY = /^database-(before|damaged)-[\w.-]+$/
const LEFTOVER = /^(restore|backup)-[\w.-]+$/
/** Without one of these a folder is no database at all. */
const VITAL = ['PG_VERSION', 'global/pg_control', 'pg_wal', 'base']

const journalSchema = z.strictObject({ from: z.string(), before: z.string() })
type Journal = z.infer<typeof journalSchema>

const databaseIn = (folder: string) => path.join(folder, 'database')
/** Beside the folder, so that it is there when the disk the folder lies on is not. */
const markOf = (folder: string) => `${folder.replace(/\/+$/, '')}.held`

/** Says beside the folder that it has held data, once it has. */
export function markHeld(folder: string): void {
  fs.rmSync(path.join(folder, ANEW), { force: true })
  if (!fs.existsSync(markOf(folder))) writeForGood(markOf(folder), `${new Date().toISOString()}\n`)
}

/** The folder is to begin anew: what is in it is moved aside and kept. */
export function beginAnew(folder: string): string | null {
  const aside = fs.existsSync(databaseIn(folder)) ? setAside(folder, 'damaged') : null
  fs.rmSync(markOf(folder), { force: true })
  fs.rmSync(path.join(folder, JOURNAL), { force: true })
  writeForGood(path.join(folder, ANEW), `${new Date().toISOString()}\n`)
  return aside
}

function setAside(folder: string, why: 'before' | 'damaged'): string {
  const name = `database-${why}-${new Date().toISOString().replace(/[:.]/g, '-')}`
  renameForGood(databaseIn(folder), path.join(folder, name))
  return name
}

/** Copies and leftovers in the folder, newest first. */
export function copiesIn(folder: string): Copy[] {
  if (!fs.existsSync(folder)) return []
  return fs
    .readdirSync(folder, { withFileTypes: true })
    .filter((e) => e.isDirectory() && (COPY.test(e.name) || LEFTOVER.test(e.name)))
    .map((e) => {
      const at = path.join(folder, e.name)
      const kind = COPY.test(e.name) ? ('database' as const) : ('leftover' as const)
      return { name: e.name, kind, bytes: sizeOf(at), at: fs.statSync(at).mtime.toISOString() }
    })
    .sort((a, b) => b.at.localeCompare(a.at))
}

function sizeOf(folder: string): number {
  return fs
    .readdirSync(folder, { withFileTypes: true, recursive: true })
    .reduce((sum, e) => sum + (e.isFile() ? fs.statSync(path.join(e.parentPath, e.name)).size : 0), 0)
}

/** Removes one copy or leftover; a sentence when there is none of this name. */
export function clearCopy(folder: string, name: string): string | null {
  if (!copiesIn(folder).some((c) => c.name === name)) return `There is no copy “${name}” in ${folder}.`
  fs.rmSync(path.join(folder, name), { recursive: true, force: true })
  return null
}

/** Puts a copy in place of what is there, which is kept; the name it is kept under, or null when there was nothing. */
export function putInPlace(folder: string, name: string): string | null {
  const copy = path.join(folder, name)
  if (!copiesIn(folder).some((c) => c.name === name && c.kind === 'database'))
    throw new FolderTrouble(`There is no copy “${name}” in ${folder}. ${copiesWords(folder)}`)
  const wrong = wrongWith(copy)
  if (wrong) throw new FolderTrouble(`${name} is no whole database: ${wrong}. Nothing was changed.`)
  const aside = fs.existsSync(databaseIn(folder)) ? setAside(folder, 'damaged') : null
  renameForGood(copy, databaseIn(folder))
  return aside
}

/**
 * Puts the database at `from` (inside the folder) in place of the one there. What is done is written down first, so
 * that a start after a cut at any moment undoes or keeps it whole. `settleExchange` ends it.
 */
export function exchange(folder: string, from: string, before: string): void {
  writeForGood(
    path.join(folder, JOURNAL),
    JSON.stringify({ from: path.relative(folder, from), before } satisfies Journal),
  )
  renameForGood(databaseIn(folder), path.join(folder, before))
  renameForGood(from, databaseIn(folder))
}

/** The new one has opened: it stays. */
export function keepExchange(folder: string): void {
  const journal = path.join(folder, JOURNAL)
  if (!fs.existsSync(journal)) return
  fs.rmSync(journal)
  flushFile(folder)
}

/** The one from before is in its place again; the new one goes. True when there was an exchange to undo. */
export function undoExchange(folder: string): boolean {
  const journal = readJournal(folder)
  if (!journal) return false
  const [now, before] = [databaseIn(folder), path.join(folder, journal.before)]
  if (fs.existsSync(before)) {
    const failed = path.join(folder, `restore-failed-${path.basename(before)}`)
    if (fs.existsSync(now)) renameForGood(now, failed)
    renameForGood(before, now)
    fs.rmSync(failed, { recursive: true, force: true })
  }
  keepExchange(folder)
  return true
}

/**
 * At a start: an exchange cut between its two renames is undone; true while one is done but not yet proven by opening.
 */
export function settleExchange(folder: string): boolean {
  const journal = readJournal(folder)
  if (!journal) return false
  const done = fs.existsSync(databaseIn(folder)) && fs.existsSync(path.join(folder, journal.before))
  if (!done) undoExchange(folder)
  return done
}

function readJournal(folder: string): Journal | null {
  try {
    return journalSchema.parse(JSON.parse(fs.readFileSync(path.join(folder, JOURNAL), 'utf8')))
  } catch {
    return null
  }
}

/**
 * Throws FolderTrouble when the folder has held data and does not hold a whole database now. A folder that never did is
 * fine.
 */
export function demandWhole(folder: string): void {
  const held = fs.existsSync(markOf(folder)) || copiesIn(folder).some((c) => c.kind === 'database')
  if (!fs.existsSync(databaseIn(folder))) {
    if (fs.existsSync(path.join(folder, ANEW))) return
    if (held)
      throw new FolderTrouble(troubleWords(folder, 'it has held a shop and holds none now: “database” is not in it'))
    return
  }
  const wrong = wrongWith(databaseIn(folder))
  if (wrong) throw new FolderTrouble(troubleWords(folder, `its database is damaged: ${wrong}`))
}

/** What a database folder lacks, in words; null when it looks whole from outside. */
function wrongWith(database: string): string | null {
  const missing = VITAL.filter((v) => !fs.existsSync(path.join(database, v)))
  if (missing.length > 0) return `${missing.join(', ')} ${missing.length === 1 ? 'is' : 'are'} missing`
  const control = fs.statSync(path.join(database, 'global/pg_control')).size
  return control === 8192 ? null : `global/pg_control has ${control} bytes where 8192 belong`
}

/** What is wrong with a folder, what there is to bring back and the command for each. */
export function troubleWords(folder: string, wrong: string): string {
  return [
    `The data folder ${folder} cannot be used: ${wrong}. Nothing in it was changed.`,
    'Does it lie on a disk that is not mounted, or was it moved? Then mount it or put it back, and start again.',
    copiesWords(folder),
    backupsWords(folder),
    `To begin with an empty shop, keeping what is there aside: bin/vivid data ${folder} --begin-anew`,
  ].join('\n')
}

function copiesWords(folder: string): string {
  const copies = copiesIn(folder).filter((c) => c.kind === 'database')
  if (copies.length === 0) return 'There is no copy of an earlier database in it.'
  const lines = copies.map(
    (c) => `  ${c.name}, ${megabytes(c.bytes)}, of ${c.at}: bin/vivid data ${folder} --use ${c.name}`,
  )
  return ['Copies in it, and the command that brings each back:', ...lines].join('\n')
}

function backupsWords(folder: string): string {
  const places = [...new Set([folder, path.dirname(folder), process.cwd()])]
  const found = places.flatMap((place) =>
    fs.existsSync(place)
      ? fs
          .readdirSync(place)
          .filter((n) => n.endsWith('.tar.gz'))
          .map((n) => path.join(place, n))
      : [],
  )
  if (found.length === 0)
    return `No backup (.tar.gz) lies in ${places.join(', ')}. One from elsewhere comes back with: bin/vivid restore FILE NEW-FOLDER`
  const lines = found.slice(0, 10).map((f) => `  bin/vivid restore ${f} ${folder}-restored`)
  return ['Backups found nearby, and the command that makes a new folder of each:', ...lines].join('\n')
}

export const megabytes = (bytes: number): string => `${(bytes / 1e6).toFixed(1)} MB`

/** An error of the file system about this folder, in words with what to do; null when it is none of those. */
export function diskWords(e: unknown, folder: string): string | null {
  if (isCode(e, 'EROFS'))
    return `The data folder ${folder} lies on a disk that can only be read. Mount it for writing, or choose another folder (VIVID_DATA).`
  if (isCode(e, 'ENOSPC') || isCode(e, 'EDQUOT'))
    return `The disk with the data folder ${folder} is full. Make room on it, then start again; what has been acknowledged is kept.`
  if (isCode(e, 'EACCES') || isCode(e, 'EPERM'))
    return `The data folder ${folder} may not be written by this user. Give it to the user the product runs as, or choose another folder (VIVID_DATA).`
  if (isCode(e, 'ENOTDIR') || isCode(e, 'EEXIST'))
    return `The data folder ${folder} is not a folder. Choose another (VIVID_DATA).`
  return null
}

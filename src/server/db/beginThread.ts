import fs from 'node:fs'
import path from 'node:path'
import { Worker } from 'node:worker_threads'
import { demandWhole, settleExchange } from '../files/dataFolder'
import { lockFolder } from './folderLock'
import type { DbOpened, DbThreadData } from './protocol'

/** `template`: an empty database with the tables of these migrations, or null to begin from nothing. */
export interface DatabasePlaces {
  folder: string
  threadFile: string
  migrationsFolder: string
  template: string | null
}

/** A thread on its way: `ready` is kept when the database answers, and broken when it does not open. */
export interface BegunThread {
  folder: string
  worker: Worker
  release: () => void
  ready: Promise<void>
}

declare global {
  /**
   * Begun by the command that starts the server, before the server's own code is loaded: opening takes as long as
   * loading.
   */
  var vividDatabaseThread: BegunThread | undefined
  /** The engine's code as the first thread has compiled it: a backup that is put in place opens at once. */
  var vividDatabaseEngine: WebAssembly.Module | undefined
}

export const placesIn = (project: string, folder: string): DatabasePlaces => ({
  folder,
  threadFile: path.join(project, 'build/db-thread.mjs'),
  migrationsFolder: path.join(project, 'src/server/db/migrations'),
  template: path.join(project, 'build/empty-database'),
})

/**
 * Locks the folder and begins to open its database. Throws FolderInUse when another process has it, FolderTrouble when
 * its data are gone.
 */
export function beginThread({ folder, threadFile, migrationsFolder, template }: DatabasePlaces): BegunThread {
  const release = lockFolder(folder)
  try {
    settleExchange(folder)
    demandWhole(folder)
  } catch (e) {
    release()
    throw e
  }
  const migrations = fs
    .readdirSync(migrationsFolder)
    .filter((n) => n.endsWith('.sql'))
    .sort()
    .map((name) => ({ name, sql: fs.readFileSync(path.join(migrationsFolder, name), 'utf8') }))
  const workerData: DbThreadData = {
    engine: globalThis.vividDatabaseEngine ?? null,
    folder: path.join(folder, 'database'),
    template,
    migrations,
  }
  const worker = new Worker(threadFile, { workerData })
  const ready = new Promise<void>((opened, failed) => {
    worker.once('message', (first: DbOpened) => {
      if (!first.ok) return failed(new Error(first.message))
      globalThis.vividDatabaseEngine = first.engine
      opened()
    })
    worker.on('error', failed)
    worker.once('exit', () => failed(new Error('the database has stopped')))
  })
  // Whoever takes the thread up learns of it; until then nobody is there to hear.
  ready.catch(() => undefined)
  return { folder, worker, release, ready }
}

/** The thread begun for this folder, if there is one, or one begun now. */
export function takeThread(places: DatabasePlaces): BegunThread {
  const begun = globalThis.vividDatabaseThread
  if (begun?.folder !== places.folder) return beginThread(places)
  globalThis.vividDatabaseThread = undefined
  return begun
}

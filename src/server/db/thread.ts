import { PGlite } from '@electric-sql/pglite'
import fs from 'node:fs'
import path from 'node:path'
import { parentPort, workerData } from 'node:worker_threads'
import { flushFolder, renameForGood } from '../files/flush'
import { FlushedFiles } from './flushedFiles'
import type { DbOpened, DbReply, DbRequest, DbThreadData, Statement } from './protocol'

// The database lives in this thread alone: a slow query holds up no page and no message.
const { engine, folder, template, migrations } = workerData as DbThreadData
const port = parentPort
if (!port) throw new Error('the database runs in a thread')

if (template !== null && !fs.existsSync(folder) && fs.existsSync(template)) {
  // Copied beside and moved into place: a start that is cut short leaves no half database behind.
  fs.rmSync(`${folder}.part`, { recursive: true, force: true })
  fs.cpSync(template, `${folder}.part`, { recursive: true })
  flushFolder(`${folder}.part`)
  renameForGood(`${folder}.part`, folder)
}
const startParams = [
  // “-F” would leave all flushing out.
  ...PGlite.defaultStartParams.filter((p) => p !== '-F'),
  // The call this engine flushes with by itself does nothing in this build.
  ...['-c', 'wal_sync_method=fsync'],
  // A quarter of the buffers it takes by itself: those of 128 MB alone take a tenth of a second to set up.
  ...['-c', 'shared_buffers=32MB'],
]
// Compiled once in a process: what one thread has made fast the next one has from the beginning.
const pgliteWasmModule =
  engine ??
  (await WebAssembly.compile(fs.readFileSync(new URL('pglite.wasm', import.meta.resolve('@electric-sql/pglite')))))
let files = new FlushedFiles(folder)
let db = await PGlite.create({ fs: files, startParams, pgliteWasmModule })
await migrate()
await files.flushed()
/** Why the engine is not trusted any more, and since when, ms: a full or failing disk, or a failure of its own. */
let suspect: { why: { message: string; code: string | null }; at: number } | null = null
/** It is opened anew at most this often. */
const AGAIN_MS = 1000

let queue: Promise<void> = Promise.resolve()
port.on('message', (request: DbRequest) => {
  queue = queue.then(() => answer(request))
})
/** Answers go out in the order the work was done in, each when what it stands on is on the disk. */
let told: Promise<void> = Promise.resolve()
port.postMessage({ id: 0, ok: true, engine: pgliteWasmModule } satisfies DbOpened)

async function answer(request: DbRequest): Promise<void> {
  const reply = await trusted()
    .then(() => perform(request))
    .then(
      (rows): DbReply => ({ id: request.id, ok: true, rows }),
      (e: unknown): DbReply => ({ id: request.id, ok: false, ...doubted(e) }),
    )
  // The next request is worked on meanwhile. A flush that fails ends this thread: nothing is known of the disk any
  // more.
  const flushed = files.flushed()
  told = told
    .then(() => flushed)
    .then(() => {
      port?.postMessage(reply)
      if (request.kind === 'close') port?.close()
    })
}

/** Message and code of an error; one of the system's or the engine's own leaves the engine in a state nobody knows. */
function doubted(e: unknown): { message: string; code: string | null } {
  const why = {
    message: e instanceof Error ? e.message : String(e),
    code: e instanceof Error && 'code' in e ? String(e.code) : null,
  }
  // Classes 53 and 58: out of resources, errors of the system; XX: of the engine. What has no code is a crash of it.
  if (/^(53|58|XX)/.test(why.code ?? 'XX')) suspect ??= { why, at: Date.now() }
  return why
}

/** Opens the database anew after such an error: what was committed is in its log, and comes back from there. */
async function trusted(): Promise<void> {
  if (!suspect) return
  if (Date.now() - suspect.at < AGAIN_MS)
    throw Object.assign(new Error(suspect.why.message), { code: suspect.why.code ?? undefined })
  suspect.at = Date.now()
  // What was written is in the files already; the engine's memory goes, as at a crash. Its lock file is its own.
  await files.flushed()
  await files.closeFs().catch(() => undefined)
  fs.rmSync(path.join(folder, 'postmaster.pid'), { force: true })
  const fresh = new FlushedFiles(folder)
  db = await PGlite.create({ fs: fresh, startParams, pgliteWasmModule })
  files = fresh
  suspect = null
}

async function perform(request: DbRequest): Promise<unknown[][]> {
  switch (request.kind) {
    case 'query':
      return [await rowsOf(db, request.statement)]
    case 'transaction':
      return db.transaction(async (tx) => {
        const all: unknown[][] = []
        for (const s of request.statements) all.push(await rowsOf(tx, s))
        return all
      })
    case 'copy':
      await db.exec('checkpoint')
      fs.cpSync(folder, request.folder, { recursive: true })
      return []
    case 'close':
      await db.close()
      return []
  }
}

async function rowsOf(on: { query: PGlite['query'] }, { sql, params }: Statement): Promise<unknown[]> {
  return (await on.query(sql, params)).rows
}

async function migrate(): Promise<void> {
  await db.exec('create table if not exists migrations (name text primary key, at timestamptz not null default now())')
  const done = new Set((await db.query<{ name: string }>('select name from migrations')).rows.map((r) => r.name))
  for (const { name, sql } of migrations) {
    if (done.has(name)) continue
    await db.transaction(async (tx) => {
      await tx.exec(sql)
      await tx.query('insert into migrations (name) values ($1)', [name])
    })
  }
}

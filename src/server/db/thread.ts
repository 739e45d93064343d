import { PGlite } from '@electric-sql/pglite'
import fs from 'node:fs'
import { parentPort, workerData } from 'node:worker_threads'
import type { DbReply, DbRequest, DbThreadData, Statement } from './protocol'

// The database lives in this thread alone: a slow query holds up no page and no message.
const { folder, template, migrations } = workerData as DbThreadData
const port = parentPort
if (!port) throw new Error('the database runs in a thread')

if (template !== null && !fs.existsSync(folder) && fs.existsSync(template)) {
  // Copied beside and moved into place: a start that is cut short leaves no half database behind.
  fs.rmSync(`${folder}.part`, { recursive: true, force: true })
  fs.cpSync(template, `${folder}.part`, { recursive: true })
  fs.renameSync(`${folder}.part`, folder)
}
// A quarter of the buffers it takes by itself: those of 128 MB alone take a tenth of a second to set up.
const db = await PGlite.create(folder, { startParams: [...PGlite.defaultStartParams, '-c', 'shared_buffers=32MB'] })
await migrate()

let queue: Promise<void> = Promise.resolve()
port.on('message', (request: DbRequest) => {
  queue = queue.then(() => answer(request))
})
port.postMessage({ id: 0, ok: true, rows: [] } satisfies DbReply)

async function answer(request: DbRequest): Promise<void> {
  try {
    const rows = await perform(request)
    port?.postMessage({ id: request.id, ok: true, rows } satisfies DbReply)
  } catch (e) {
    const code = e instanceof Error && 'code' in e ? String(e.code) : null
    port?.postMessage({ id: request.id, ok: false, message: e instanceof Error ? e.message : String(e), code } satisfies DbReply)
  }
}

async function perform(request: DbRequest): Promise<unknown[][]> {
  switch (request.kind) {
    case 'query': return [await rowsOf(db, request.statement)]
    case 'transaction': return db.transaction(async (tx) => {
      const all: unknown[][] = []
      for (const s of request.statements) all.push(await rowsOf(tx, s))
      return all
    })
    case 'dump':
      await db.exec('checkpoint')
      return [[new Uint8Array(await (await db.dumpDataDir('gzip')).arrayBuffer())]]
    case 'close':
      await db.close()
      setImmediate(() => port?.close())
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

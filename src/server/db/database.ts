import type { z } from 'zod'
import { diskWords, FolderTrouble, markHeld, troubleWords } from '../files/dataFolder'
import { type DatabasePlaces, takeThread } from './beginThread'
import type { DbReply, DbRequest, Statement } from './protocol'

export class DatabaseError extends Error {
  constructor(
    message: string,
    readonly code: string | null,
  ) {
    super(message)
  }
}

/**
 * PostgreSQL in a thread of its own. Every statement is plain SQL; rows are checked against a schema on the way out.
 */
export interface Database {
  query<T>(row: z.ZodType<T>, sql: string, params?: unknown[]): Promise<T[]>
  run(sql: string, params?: unknown[]): Promise<void>
  /** All or nothing. */
  transaction(statements: Statement[]): Promise<unknown[][]>
  /** Everything as of one moment, in a new folder; the database goes on when this is kept. */
  copyTo(folder: string): Promise<void>
  close(): Promise<void>
}

/**
 * Opens (or creates) the database in `folder` and brings it up to date. Throws FolderInUse when another process has it,
 * FolderTrouble when it does not open.
 */
export async function openDatabase(places: DatabasePlaces): Promise<Database> {
  const { worker, release, ready } = takeThread(places)
  try {
    await ready
  } catch (e) {
    release()
    const said = e instanceof Error ? e.message : String(e)
    const full = /No space left/i.test(said)
      ? diskWords(Object.assign(new Error(said), { code: 'ENOSPC' }), places.folder)
      : null
    throw new FolderTrouble(
      full ?? troubleWords(places.folder, `its database does not open (${said.split('\n')[0]?.slice(0, 200)})`),
    )
  }
  markHeld(places.folder)
  const waiting = new Map<number, { about: string; done: (rows: unknown[][]) => void; failed: (e: Error) => void }>()
  let next = 1
  let closing: Promise<unknown> | null = null

  /** Why nothing can be asked any more, once the thread has ended: whoever asks then is told at once. */
  let ended: string | null = null
  const stopped = (why: string, about: string) =>
    new DatabaseError(
      `the database has stopped (${why}): nothing more is saved until the product is started again (asked: ${about})`,
      null,
    )
  const fail = (e: Error) => {
    ended ??= e.message
    for (const w of waiting.values()) w.failed(stopped(ended, w.about))
    waiting.clear()
  }
  worker.on('message', (reply: DbReply) => {
    const w = waiting.get(reply.id)
    waiting.delete(reply.id)
    if (reply.ok) w?.done(reply.rows)
    else w?.failed(new DatabaseError(reply.message, reply.code))
  })
  worker.on('error', fail)
  worker.on('exit', () => fail(new Error('its thread has ended')))

  const send = (make: (id: number) => DbRequest) => {
    const request = make(next++)
    const about = aboutWords(request)
    if (ended !== null) return Promise.reject(stopped(ended, about))
    if (closing) return Promise.reject(stopped('it was closed', about))
    const answer = new Promise<unknown[][]>((done, failed) => waiting.set(request.id, { about, done, failed }))
    worker.postMessage(request)
    return answer
  }
  const query = async (sql: string, params: unknown[]) =>
    (await send((id) => ({ id, kind: 'query', statement: { sql, params } })))[0] ?? []

  return {
    query: async (row, sql, params = []) => (await query(sql, params)).map((r) => row.parse(r)),
    run: async (sql, params = []) => void (await query(sql, params)),
    transaction: (statements) => send((id) => ({ id, kind: 'transaction', statements })),
    copyTo: async (folder) => void (await send((id) => ({ id, kind: 'copy', folder }))),
    close: async () => {
      if (ended === null) closing ??= send((id) => ({ id, kind: 'close' }))
      await closing
      release()
    },
  }
}

/** What was asked, for whoever reads why it came to nothing: statements without their values, which may be secret. */
function aboutWords(request: DbRequest): string {
  const of = 'statements' in request ? request.statements : []
  const first = 'statement' in request ? request.statement : of[0]
  return first ? first.sql.trim().replace(/\s+/g, ' ').slice(0, 60) : request.kind
}

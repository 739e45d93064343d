import { z } from 'zod'
import { type DatabasePlaces, takeThread } from './beginThread'
import type { DbReply, DbRequest, Statement } from './protocol'

const dumped = z.tuple([z.tuple([z.custom<Uint8Array>((v) => v instanceof Uint8Array)])])

export class DatabaseError extends Error {
  constructor(message: string, readonly code: string | null) {
    super(message)
  }
}

/** PostgreSQL in a thread of its own. Every statement is plain SQL; rows are checked against a schema on the way out. */
export interface Database {
  query<T>(row: z.ZodType<T>, sql: string, params?: unknown[]): Promise<T[]>
  run(sql: string, params?: unknown[]): Promise<void>
  /** All or nothing. */
  transaction(statements: Statement[]): Promise<unknown[][]>
  /** Everything in one compressed file, as of one moment; the database goes on. */
  dump(): Promise<Uint8Array>
  close(): Promise<void>
}

/** Opens (or creates) the database in `folder` and brings it up to date. Throws FolderInUse when another process has it. */
export async function openDatabase(places: DatabasePlaces): Promise<Database> {
  const { worker, release, ready } = takeThread(places)
  try {
    await ready
  } catch (e) {
    release()
    throw e
  }
  const waiting = new Map<number, { done: (rows: unknown[][]) => void; failed: (e: Error) => void }>()
  let next = 1

  const fail = (e: Error) => {
    for (const w of waiting.values()) w.failed(e)
    waiting.clear()
  }
  worker.on('message', (reply: DbReply) => {
    const w = waiting.get(reply.id)
    waiting.delete(reply.id)
    if (reply.ok) w?.done(reply.rows)
    else w?.failed(new DatabaseError(reply.message, reply.code))
  })
  worker.on('error', fail)
  worker.on('exit', () => fail(new DatabaseError('the database has stopped', null)))

  const send = (make: (id: number) => DbRequest) => {
    const id = next++
    const answer = new Promise<unknown[][]>((done, failed) => waiting.set(id, { done, failed }))
    worker.postMessage(make(id))
    return answer
  }
  const query = async (sql: string, params: unknown[]) => (await send((id) => ({ id, kind: 'query', statement: { sql, params } })))[0] ?? []

  return {
    query: async (row, sql, params = []) => (await query(sql, params)).map((r) => row.parse(r)),
    run: async (sql, params = []) => void (await query(sql, params)),
    transaction: (statements) => send((id) => ({ id, kind: 'transaction', statements })),
    dump: async () => dumped.parse(await send((id) => ({ id, kind: 'dump' })))[0][0],
    close: async () => {
      await send((id) => ({ id, kind: 'close' }))
      release()
    },
  }
}

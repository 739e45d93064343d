/** What passes between the server and the database's thread. */
export interface Statement {
  sql: string
  params: unknown[]
}

export type DbRequest =
  | { id: number; kind: 'query'; statement: Statement }
  | { id: number; kind: 'transaction'; statements: Statement[] }
  | { id: number; kind: 'copy'; folder: string }
  | { id: number; kind: 'close' }

export type DbReply =
  { id: number; ok: true; rows: unknown[][] } | { id: number; ok: false; message: string; code: string | null }

/** The first thing the thread says: whether the database is open, and the engine's code for the next thread. */
export type DbOpened = { id: 0; ok: true; engine: WebAssembly.Module } | (DbReply & { ok: false })

/**
 * `template`: an empty database made at build time; a new folder starts as its copy, or from nothing without. `engine`:
 * the engine's code where this process has compiled it before.
 */
export interface DbThreadData {
  engine: WebAssembly.Module | null
  folder: string
  template: string | null
  migrations: { name: string; sql: string }[]
}

import fs from 'node:fs'
import path from 'node:path'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import type { ReadableStream } from 'node:stream/web'
import { PGlite } from '@electric-sql/pglite'
import { ArchiveRefused, unpackFolder } from '../server/backup/archive'
import { diskWords, megabytes } from '../server/files/dataFolder'
import { flushFile, flushFolder, renameForGood } from '../server/files/flush'

/**
 * Asks the running product for a backup and writes it beside its final name first, so that a file of that name is
 * always whole.
 */
export async function backup(file: string): Promise<void> {
  const port = process.env.PORT ?? '3000'
  const response = await fetch(`http://127.0.0.1:${port}/api/backup`).catch(() => null)
  if (!response)
    throw new Error(
      `Nothing answers at 127.0.0.1:${port}. Start the product first, or say its port: PORT=… bin/vivid backup ${file}`,
    )
  if (!response.ok || !response.body)
    throw new Error(`The product answered ${response.status}: ${(await response.text()).slice(0, 200)}`)
  const part = `${file}.part`
  try {
    await pipeline(Readable.fromWeb(response.body as ReadableStream), fs.createWriteStream(part, { mode: 0o600 }))
    flushFile(part)
    renameForGood(part, file)
  } catch (e) {
    fs.rmSync(part, { force: true })
    const why =
      diskWords(e, path.dirname(path.resolve(file)))?.replace('The data folder', 'The folder') ??
      (e instanceof Error ? e.message : String(e))
    throw new Error(`${file} was not written: ${why}`)
  }
  console.log(`${file}: ${megabytes(fs.statSync(file).size)}. Restore with: bin/vivid restore ${file} NEW-FOLDER`)
}

/** Makes a new data folder from a backup. Never touches a folder that is there already. */
export async function restore(file: string, folder: string): Promise<void> {
  if (!fs.existsSync(file)) throw new Error(`${file} is not there.`)
  if (fs.existsSync(path.join(folder, 'database')))
    throw new Error(`${folder} holds a database already. Name a new folder; nothing was changed.`)
  const part = path.join(folder, 'database.part')
  fs.rmSync(part, { recursive: true, force: true })
  try {
    await unpackFolder(fs.createReadStream(file), part)
    const holds = await lookedThrough(part)
    flushFolder(part)
    renameForGood(part, path.join(folder, 'database'))
    console.log(`${folder}: ${holds}. Start it with: VIVID_DATA=${folder} bin/start`)
  } catch (e) {
    fs.rmSync(part, { recursive: true, force: true })
    const said = e instanceof Error ? e.message : String(e)
    const full = diskWords(e, folder)
    throw new Error(
      full ??
        (e instanceof ArchiveRefused
          ? `${file} was not taken: ${said}. Nothing was changed.`
          : `${file} is no backup of this product, or is damaged: ${said}. Nothing was changed.`),
    )
  }
}

async function lookedThrough(database: string): Promise<string> {
  if (!fs.existsSync(path.join(database, 'PG_VERSION'))) throw new Error('no database is in it')
  const db = await PGlite.create({ dataDir: database })
  try {
    const { rows } = await db.query<{ nodes: number; edits: number }>(
      'select (select count(*)::int from nodes) as nodes, (select count(*)::int from edits) as edits',
    )
    return `${rows[0]?.nodes ?? 0} nodes, ${rows[0]?.edits ?? 0} edits`
  } finally {
    await db.close()
  }
}

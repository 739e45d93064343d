import fs from 'node:fs'
import path from 'node:path'
import { PGlite } from '@electric-sql/pglite'

/** Asks the running product for a backup and writes it beside its final name first, so that a file of that name is always whole. */
export async function backup(file: string): Promise<void> {
  const port = process.env.PORT ?? '3000'
  const response = await fetch(`http://127.0.0.1:${port}/api/backup`).catch(() => null)
  if (!response) throw new Error(`Nothing answers at 127.0.0.1:${port}. Start the product first, or say its port: PORT=… vivid backup ${file}`)
  if (!response.ok) throw new Error(`The product answered ${response.status}: ${(await response.text()).slice(0, 200)}`)
  const bytes = Buffer.from(await response.arrayBuffer())
  fs.writeFileSync(`${file}.part`, bytes, { mode: 0o600 })
  fs.renameSync(`${file}.part`, file)
  console.log(`${file}: ${(bytes.length / 1e6).toFixed(1)} MB. Restore with: vivid restore ${file} NEW-FOLDER`)
}

/** Makes a new data folder from a backup. Never touches a folder that is there already. */
export async function restore(file: string, folder: string): Promise<void> {
  if (!fs.existsSync(file)) throw new Error(`${file} is not there.`)
  if (fs.existsSync(path.join(folder, 'database'))) throw new Error(`${folder} holds a database already. Name a new folder; nothing was changed.`)
  fs.mkdirSync(folder, { recursive: true, mode: 0o700 })
  const part = path.join(folder, 'database.part')
  fs.rmSync(part, { recursive: true, force: true })
  const db = await PGlite.create({ dataDir: part, loadDataDir: new Blob([fs.readFileSync(file)]) }).catch((e: unknown) => {
    fs.rmSync(part, { recursive: true, force: true })
    throw new Error(`${file} is no backup of this product, or is damaged: ${e instanceof Error ? e.message : String(e)}. Nothing was changed.`)
  })
  const { rows } = await db.query<{ nodes: number; edits: number }>('select (select count(*)::int from nodes) as nodes, (select count(*)::int from edits) as edits')
  await db.close()
  fs.renameSync(part, path.join(folder, 'database'))
  console.log(`${folder}: ${rows[0]?.nodes ?? 0} nodes, ${rows[0]?.edits ?? 0} edits. Start it with: VIVID_DATA=${folder} bin/start`)
}

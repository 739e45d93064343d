import { execFile } from 'node:child_process'
import { randomUUID } from 'node:crypto'
import fs from 'node:fs'
import path from 'node:path'
import { promisify } from 'node:util'
import { guard, problem } from '@/server/http/guard'
import { exchangeDatabase, product } from '@/server/instance'

const run = promisify(execFile)
const LARGEST = 2e9

/** A backup comes back: unpacked and looked through in a process of its own first, then put in place of the database in use. */
export async function POST(request: Request): Promise<Response> {
  const refused = guard(request, 'application/gzip')
  if (refused) return refused
  const { options } = await product()
  const work = path.join(options.dataFolder, `restore-${randomUUID()}`)
  try {
    fs.mkdirSync(work, { recursive: true, mode: 0o700 })
    const file = path.join(work, 'backup.tar.gz')
    const bytes = Buffer.from(await request.arrayBuffer())
    if (bytes.length === 0 || bytes.length > LARGEST) return problem(413, `The file has ${bytes.length} bytes; a backup has at most ${LARGEST}.`)
    fs.writeFileSync(file, bytes, { mode: 0o600 })
    const { stdout } = await run(process.execPath, [path.join(options.project, 'build/vivid.mjs'), 'restore', file, path.join(work, 'new')]).catch((e: unknown) => {
      throw new Error(String((e as { stderr?: string }).stderr ?? e).trim().replaceAll(file, 'This file'))
    })
    const before = await exchangeDatabase(path.join(work, 'new', 'database'))
    return Response.json({ holds: /: (.*?)\. Start/.exec(stdout)?.[1] ?? '', before })
  } catch (e) {
    return problem(422, e instanceof Error ? e.message : String(e))
  } finally {
    fs.rmSync(work, { recursive: true, force: true })
  }
}

import { execFile } from 'node:child_process'
import { randomUUID } from 'node:crypto'
import fs from 'node:fs'
import path from 'node:path'
import { promisify } from 'node:util'
import { bodyToFile } from '@/server/http/body'
import { guard, problem } from '@/server/http/guard'
import { answer } from '@/host/write'
import { exchangeDatabase, product } from '@/host/instance'

const run = promisify(execFile)
const LARGEST = 2e9
/** Unpacking and looking through it, ms. */
const LONGEST = 900_000

/**
 * A backup comes back: unpacked and looked through in a process of its own first, then put in place of the database in
 * use.
 */
export function POST(request: Request): Promise<Response> {
  return answer(async () => {
    const refused = guard(request, 'application/gzip')
    if (refused) return refused
    const { options } = await product()
    const work = path.join(options.dataFolder, `restore-${randomUUID()}`)
    try {
      fs.mkdirSync(work, { recursive: true, mode: 0o700 })
      const file = path.join(work, 'backup.tar.gz')
      const wrong = await bodyToFile(request, file, LARGEST)
      if (wrong) return wrong
      const command = [path.join(options.project, 'build/vivid.mjs'), 'restore', file, path.join(work, 'new')]
      const { stdout } = await run(process.execPath, command, { timeout: LONGEST }).catch((e: unknown) => {
        throw new Error(
          String((e as { stderr?: string }).stderr || e)
            .trim()
            .replaceAll(file, 'This file'),
        )
      })
      const before = await exchangeDatabase(path.join(work, 'new', 'database'))
      return Response.json({ holds: /: (.*?)\. Start/.exec(stdout)?.[1] ?? '', before })
    } catch (e) {
      return problem(422, e instanceof Error ? e.message : String(e))
    } finally {
      fs.rmSync(work, { recursive: true, force: true })
    }
  })
}

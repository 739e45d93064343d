import fs from 'node:fs'
import http from 'node:http'
import path from 'node:path'
import type { NextConfig } from 'next'
import type { Instance } from '../src/server/instance'
import { beginThread, placesIn } from '../src/server/db/beginThread'

declare global {
  var vividNode: Instance | undefined
}

export interface Serving {
  project: string
  dataFolder: string
  host: string
  port: number
  /** Where this process itself finds what listens on `host`. */
  here: string
}

/**
 * Serves pages and product in this process; kept when both stand. The database opens in its thread while the server's code is loaded,
 * and the first page is made ready while the database opens.
 */
export async function serve({ project, dataFolder, host, port, here }: Serving): Promise<void> {
  try {
    globalThis.vividDatabaseThread = beginThread(placesIn(project, dataFolder))
  } catch { /* the product meets the same when it starts, and says it */ }
  // The settings the build was made with, as the framework's own stand-alone server takes them: compiling and reading them again takes a tenth of a second.
  const built = JSON.parse(fs.readFileSync(path.join(project, '.next/required-server-files.json'), 'utf8')) as { config: NextConfig }
  process.env.__NEXT_PRIVATE_STANDALONE_CONFIG = JSON.stringify(built.config)
  const { default: next } = await import('next')
  const app = next({ dev: false, dir: project, hostname: host, port, conf: built.config })
  await app.prepare()
  const handle = app.getRequestHandler()
  const server = http.createServer((request, response) => void handle(request, response))
  await new Promise<void>((listening, failed) => server.once('error', failed).listen(port, host, listening))
  // Its start-up code has run when the first page has been answered.
  await fetch(`http://${here}:${port}/`).then((r) => r.arrayBuffer())
  await globalThis.vividNode?.starting
}

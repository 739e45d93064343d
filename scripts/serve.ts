import http from 'node:http'
import conf from '../next.config'
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
  const { default: next } = await import('next')
  const app = next({ dev: false, dir: project, hostname: host, port, conf })
  await app.prepare()
  const handle = app.getRequestHandler()
  const server = http.createServer((request, response) => void handle(request, response))
  await new Promise<void>((listening, failed) => server.once('error', failed).listen(port, host, listening))
  // Its start-up code has run when the first page has been answered.
  await fetch(`http://${here}:${port}/`).then((r) => r.arrayBuffer())
  await globalThis.vividNode?.starting
}

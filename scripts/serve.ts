import fs from 'node:fs'
import http from 'node:http'
import https from 'node:https'
import type { AddressInfo } from 'node:net'
import path from 'node:path'
import type { NextConfig } from 'next'
import { bridgeCable } from '../src/host/cableBridge'
import type { Instance } from '../src/host/instance'
import { heldAtDoor } from '../src/server/http/door'
import { ADDRESS_HEADER, knownBrowser } from '../src/server/http/session'
import { beginThread, placesIn } from '../src/server/db/beginThread'
import { rememberCompiled } from './compiled'

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
  /** Only this machine asks for pages: packing them costs more than it saves. */
  near: boolean
  /** Pages are made anew as their files change; nothing of the build is used for them. */
  dev: boolean
  /** The same pages by TLS with the user's certificate: a browser at another machine gives serial ports to no others. */
  tls: { port: number; certFile: string; keyFile: string } | null
}

/**
 * Serves pages and product in this process; kept when both stand. The database opens in its thread while the server's
 * code is loaded, and the first page is made ready while the database opens. Returns where the pages are.
 */
export async function serve({ project, dataFolder, host, port, here, near, dev, tls }: Serving): Promise<string> {
  try {
    globalThis.vividDatabaseThread = beginThread(placesIn(project, dataFolder))
  } catch {
    /* the product meets the same when it starts, and says it */
  }
  const server = http.createServer()
  const app = dev ? await pagesInWork({ project, host, port, server }) : await builtPages({ project, host, port, near })
  const handle = app.getRequestHandler()
  const answer = (request: http.IncomingMessage, response: http.ServerResponse) => {
    if (heldAtDoor(request, response, (cookies) => knownBrowser(cookies) !== null)) return
    // Whom a password is tried from: nobody else gets to say it.
    request.headers[ADDRESS_HEADER] = request.socket.remoteAddress ?? ''
    void handle(request, response)
  }
  server.on('request', answer)
  bridgeCable(server, dataFolder, dev)
  await new Promise<void>((listening, failed) => server.once('error', failed).listen(port, host, listening))
  if (tls) {
    const secure = https.createServer(
      { cert: fs.readFileSync(tls.certFile), key: fs.readFileSync(tls.keyFile), minVersion: 'TLSv1.2' },
      (request, response) => {
        request.headers['x-forwarded-proto'] = 'https'
        answer(request, response)
      },
    )
    bridgeCable(secure, dataFolder, false)
    await new Promise<void>((listening, failed) => secure.once('error', failed).listen(tls.port, host, listening))
  }
  const pages = `http://${here}:${(server.address() as AddressInfo).port}`
  // Its start-up code has run when the first page has been answered.
  await fetch(`${pages}/`).then((r) => r.arrayBuffer())
  await globalThis.vividNode?.starting
  return pages
}

interface PagesOf {
  project: string
  host: string
  port: number
}

/** Pages as the build made them. */
async function builtPages({ project, host, port, near }: PagesOf & { near: boolean }) {
  const madeOf = ['.next/BUILD_ID', 'node_modules/.package-lock.json', 'package-lock.json'].map(
    (name) => fs.statSync(path.join(project, name), { throwIfNoEntry: false })?.mtimeMs,
  )
  process.once('exit', rememberCompiled(path.join(project, 'build/compiled'), JSON.stringify(madeOf)))
  // The settings the build was made with, as the framework's own stand-alone server takes them: compiling and reading
  // them again takes a tenth of a second.
  const built = JSON.parse(fs.readFileSync(path.join(project, '.next/required-server-files.json'), 'utf8')) as {
    config: NextConfig
  }
  const conf = { ...built.config, compress: !near }
  process.env.__NEXT_PRIVATE_STANDALONE_CONFIG = JSON.stringify(conf)
  const { default: next } = await import('next')
  const app = next({ dev: false, dir: project, hostname: host, port, conf })
  await app.prepare()
  return app
}

/** Pages as their files are now. */
async function pagesInWork({ project, host, port, server }: PagesOf & { server: http.Server }) {
  const { default: next } = await import('next')
  const app = next({ dev: true, dir: project, hostname: host, port, httpServer: server })
  await app.prepare()
  return app
}

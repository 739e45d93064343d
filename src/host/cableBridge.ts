import type http from 'node:http'
import type https from 'node:https'
import net from 'node:net'
import { WebSocketServer } from 'ws'
import { cableIn } from '../server/files/cableState'
import { foreign } from '../server/http/guard'
import { mayEnter, sessionOf } from '../server/http/session'

const PATH = '/api/cable'

/**
 * Brings the bytes of the simulated board's port to a page, and back: a page cannot open a socket. Only pages of our own
 * get in, and only where there is such a board. `others` are upgrades of somebody else, who looks after them.
 */
export function bridgeCable(server: http.Server | https.Server, dataFolder: string, others: boolean): void {
  const sockets = new WebSocketServer({ noServer: true, maxPayload: 1024 * 1024 })
  server.on('upgrade', (request: http.IncomingMessage, socket: net.Socket, head: Buffer) => {
    if (request.url !== PATH) {
      if (!others) socket.destroy()
      return
    }
    const refuse = (status: string) => socket.end(`HTTP/1.1 ${status}\r\nConnection: close\r\n\r\n`)
    const { host = '', origin, cookie } = request.headers
    // Judged as a write: a browser always says where such a connection comes from.
    const asked = new Request('http://page/', {
      method: 'POST',
      headers: { host, ...(origin === undefined ? {} : { origin }), ...(cookie === undefined ? {} : { cookie }) },
    })
    if (origin === undefined || foreign(asked) || !mayEnter(sessionOf(asked))) return refuse('403 Forbidden')
    const cable = cableIn(dataFolder)
    if (!cable) return refuse('404 Not Found')
    sockets.handleUpgrade(request, socket, head, (page) => {
      const port = net.connect(cable.port, '127.0.0.1')
      port.setNoDelay(true)
      port.on('data', (bytes) => page.send(bytes))
      port.on('close', () => page.close())
      port.on('error', () => page.close())
      page.on('message', (bytes: Buffer) => port.write(bytes))
      page.on('close', () => port.destroy())
      page.on('error', () => port.destroy())
    })
  })
}

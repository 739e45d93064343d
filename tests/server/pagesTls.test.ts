import https from 'node:https'
import { expect, test } from 'vitest'
import { WebSocket } from 'ws'
import { ownCertificate } from '../support/certificate'
import { startOwn } from '../support/demo'
import { freePort } from '../support/product'

test('pages answer by TLS with the user’s certificate, and no socket leads to a cable where there is no simulated board', async () => {
  const { certFile, keyFile } = ownCertificate()
  const [port, mqtts] = [await freePort(), await freePort()]
  const own = await startOwn({
    VIVID_TLS_CERT: certFile,
    VIVID_TLS_KEY: keyFile,
    HTTPS_PORT: String(port),
    MQTTS_PORT: String(mqtts),
    VIVID_BROKER_ENDS: '1',
  })
  try {
    const page = await new Promise<{ status: number; text: string }>((done, failed) =>
      https
        .get({ host: '127.0.0.1', port, path: '/', rejectUnauthorized: false }, (r) => {
          let text = ''
          r.on('data', (d: Buffer) => {
            text += d.toString()
          })
          r.on('end', () => done({ status: r.statusCode ?? 0, text }))
        })
        .on('error', failed),
    )
    expect(page.status).toBe(200)
    expect(page.text).toMatch(/<html/)
    const statusOf = (origin: string) =>
      new Promise<string>((done) => {
        const ws = new WebSocket(`${own.url.replace('http', 'ws')}/api/cable`, { origin })
        ws.on('unexpected-response', (_, r) => done(String(r.statusCode)))
        ws.on('error', (e) => done(e.message))
        ws.on('open', () => done('open'))
      })
    expect(await statusOf(own.url)).toMatch(/404/)
    expect(await statusOf('http://elsewhere.example')).toMatch(/403/)
  } finally {
    await own.stop()
  }
}, 60_000)

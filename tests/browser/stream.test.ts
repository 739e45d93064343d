import http from 'node:http'
import { buildSync } from 'esbuild'
import type { WebDriver } from 'selenium-webdriver'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { openBrowser } from '../support/demo'

// The shared line between tabs, with a server of the test's own that can keep events to itself: real tabs, locks and
// channels.
const script =
  buildSync({
    stdin: {
      contents: `import { sharedStream } from './src/ui/live/sharedStream'
      window.got = []
      window.start = () => { window.stop = sharedStream({ path: '/events', kinds: ['snapshot', 'change'], consecutive: true, onEvent: (e) => window.got.push(e.id + ' ' + e.kind), onLink: (l) => { window.link = l } }) }`,
      resolveDir: process.cwd(),
      loader: 'ts',
    },
    bundle: true,
    write: false,
    format: 'iife',
  }).outputFiles[0]?.text ?? ''

let epoch = 'e'
let known: number[] = []
const lines = new Set<http.ServerResponse>()
const asked: (string | null)[] = []
const tell = (to: http.ServerResponse, n: number, kind: string) =>
  to.write(`id: ${epoch}-${n}\nevent: ${kind}\ndata: {}\n\n`)
const server = http.createServer((request, response) => {
  const url = new URL(request.url ?? '/', 'http://here')
  if (url.pathname !== '/events') {
    response.setHeader('content-type', 'text/html')
    return void response.end(`<!doctype html><title>stream</title><script>${script}</script>`)
  }
  response.writeHead(200, { 'content-type': 'text/event-stream', 'cache-control': 'no-store' })
  response.flushHeaders()
  const after = url.searchParams.get('after')
  asked.push(after)
  const [of, n] = (after ?? '').split('-')
  if (of === epoch) for (const k of known.filter((k) => k > Number(n))) tell(response, k, 'change')
  else tell(response, known.at(-1) ?? 0, 'snapshot')
  lines.add(response)
  request.on('close', () => lines.delete(response))
})
/** A new event; `aloud` passes it to everyone on the line. */
const happen = (aloud: boolean) => {
  const n = (known.at(-1) ?? 0) + 1
  known.push(n)
  if (aloud) for (const line of lines) tell(line, n, 'change')
}

let driver: WebDriver
let url = ''
beforeAll(async () => {
  await new Promise<void>((r) => server.listen(0, '127.0.0.1', r))
  const address = server.address()
  url = `http://127.0.0.1:${typeof address === 'object' && address ? address.port : 0}/`
  driver = await openBrowser()
}, 120_000)
afterAll(async () => {
  await driver?.quit()
  server.closeAllConnections()
  server.close()
})

const got = () => driver.executeScript<string[]>('return window.got')
const has = (ids: string[]) =>
  driver
    .wait(async () => JSON.stringify(await got()) === JSON.stringify(ids), 8000, `wanted ${ids.join(', ')}`)
    .catch(async (e: unknown) => {
      throw new Error(`${String(e)}; got ${(await got()).join(', ')}`)
    })
const ids = (...n: number[]) => n.map((k) => `${epoch}-${k} change`)

test('two tabs share one line; a hole of several is filled on one line of its own, in order and once; when the first tab goes the other goes on', async () => {
  known = [1]
  await driver.get(url)
  const first = await driver.getWindowHandle()
  await driver.executeScript('window.start()')
  await has(['e-1 snapshot'])
  await driver.switchTo().newWindow('tab')
  const second = await driver.getWindowHandle()
  await driver.get(url)
  await driver.executeScript('window.start()')
  await has(['e-1 snapshot'])
  // The tab that joined had a line until it had the state; one is left.
  await driver.wait(() => lines.size === 1, 4000)
  happen(true)
  happen(true)
  await has(['e-1 snapshot', ...ids(2, 3)])

  // Four events pass that this tab hears nothing of, then the last of them by way of the channel.
  const before = asked.length
  for (let i = 0; i < 4; i++) happen(false)
  await driver.switchTo().window(first)
  await driver.executeScript(
    `new BroadcastChannel('vivid /events').postMessage({ event: { id: '${epoch}-7', kind: 'change', data: '{}' } })`,
  )
  await driver.switchTo().window(second)
  await has(['e-1 snapshot', ...ids(2, 3, 4, 5, 6, 7)])
  expect(asked.slice(before)).toEqual(['e-3'])
  await driver.wait(() => lines.size === 1, 4000)

  // The tab with the line goes: the other asks for what came after the last it knows.
  await driver.switchTo().window(first)
  await driver.close()
  await driver.switchTo().window(second)
  await driver.wait(() => asked.at(-1) === 'e-7', 8000)
  happen(true)
  await has(['e-1 snapshot', ...ids(2, 3, 4, 5, 6, 7, 8)])
  expect(await driver.executeScript<string>('return window.link')).toBe('up')
})

test('a server that has started anew gives the whole state, and nothing of before is taken for something of now', async () => {
  epoch = 'f'
  known = [3]
  for (const line of lines) line.end()
  await driver.wait(async () => (await got()).at(-1) === 'f-3 snapshot', 15_000)
  happen(true)
  await driver.wait(async () => (await got()).at(-1) === 'f-4 change', 5000)
  expect((await got()).filter((id) => id.startsWith('f'))).toEqual(['f-3 snapshot', 'f-4 change'])
})

import fs from 'node:fs'
import path from 'node:path'
import { describe, expect, test } from 'vitest'
import { demoInBrowser, type Opened } from '../support/demoInBrowser'
import type { Driver } from 'selenium-webdriver/chrome'
import { madeDriveFile } from '../../standins/cable/madeImage'
import { tempFolder } from '../support/product'

const opened = demoInBrowser()
const page = new Proxy({} as Opened['page'], { get: (_, key: keyof Opened['page']) => opened.page[key] })
const post = (at: string, body: object) =>
  fetch(opened.demo.url + at, {
    method: 'POST',
    headers: { 'content-type': 'application/json', origin: opened.demo.url },
    body: JSON.stringify(body),
  })
const head = () => page.text('.startup-head')
const idle = () =>
  page.sees('nothing runs', async () => (await page.attribute('.write-board', 'data-doing')) === 'nothing', 40_000)

/**
 * In place of the browser's own port: one written from the Web Serial specification and the frames of the simulated
 * board, with nothing of the product in it.
 */
const OWN_PORT = `
  Object.defineProperty(navigator, 'serial', { configurable: true, value: { requestPort: async () => {
    let ws = null, out = null, lines = { dtr: false, rts: false }
    const control = (c) => { const b = new TextEncoder().encode(JSON.stringify(c)); ws.send(Uint8Array.of(2, b.length & 255, b.length >> 8, ...b)) }
    const port = {
      readable: null, writable: null, getInfo: () => ({}),
      async open({ baudRate }) {
        if (ws) throw new DOMException('open already', 'InvalidStateError')
        const mine = new WebSocket(location.origin.replace('http', 'ws') + '/api/cable')
        mine.binaryType = 'arraybuffer'
        await new Promise((r, f) => { mine.onopen = r; mine.onerror = f })
        ws = mine
        let left = [], answered
        const answer = new Promise((r) => { answered = r })
        port.readable = new ReadableStream({ start: (c) => { out = c } })
        port.writable = new WritableStream({ write: (b) => { for (let at = 0; at < b.length; at += 60000) { const p = b.subarray(at, at + 60000); mine.send(Uint8Array.of(1, p.length & 255, p.length >> 8, ...p)) } } })
        const gone = () => { if (ws !== mine) return; ws = null; port.readable = port.writable = null; try { out.error(new DOMException('The device has been lost.', 'NetworkError')) } catch {} }
        mine.onclose = gone
        mine.onmessage = (m) => {
          left.push(...new Uint8Array(m.data))
          for (;;) {
            const n = left[1] + 256 * left[2]
            if (left.length < 3 || left.length < 3 + n) return
            const [kind, , , ...rest] = left
            const content = Uint8Array.from(rest.slice(0, n)); left = rest.slice(n)
            if (kind === 1) { if (ws === mine) out.enqueue(content); continue }
            const said = JSON.parse(new TextDecoder().decode(content))
            if ('gone' in said) gone(); else if (!('info' in said)) answered(said)
          }
        }
        control({ open: baudRate })
        const said = await answer
        if (said.refused) { ws = null; mine.close(); throw new DOMException('Failed to open serial port.', 'NetworkError') }
        control(lines)
      },
      async setSignals(s) { lines = { dtr: s.dataTerminalReady ?? lines.dtr, rts: s.requestToSend ?? lines.rts }; control(lines) },
      async close() { const w = ws; ws = null; port.readable = port.writable = null; w?.close() },
    }
    return port
  } } })`

describe('an empty board at the cable', () => {
  test('is written, gets the node’s files, and the node is online', async () => {
    expect(
      (await post('/api/nodes', { name: 'Bench shelf', place: '', board: 'board-32-30', edits: [], author: 'bench' }))
        .status,
    ).toBe(201)
    await page.sees('the board', async () => (await fetch(`${opened.demo.url}/api/standin/cable`)).ok)
    await page.go('/node/bench-shelf/program')
    await page.press('Write the board')
    await page.press('The simulated board')
    await page.sees('the port', async () => /simulated board \(32-class\)/.test(await page.text('.write-board')))
    // What it says before: the flash is empty.
    await page.press('Start it anew and listen')
    await page.sees('an empty flash', async () => /flash is empty/i.test(await head()), 15_000)
    await page.press('Stop')
    await idle()
    await page.press('Take the stand-in’s')
    await page.sees('the image', async () => (await page.attribute('[data-image]', 'data-image')) === 'fits')
    await page.press('Write and install')
    await page.sees('it runs', async () => /It runs: in the network/.test(await head()), 60_000)
    expect(await page.text('.write-said')).toMatch(
      /written and compared, hardware address 02[0-9a-f]{10}[\s\S]*files written and read back/,
    )
    await opened.noViolations()
    await idle()
    await page.go('/node/bench-shelf')
    await page.sees('running', async () => /revision 1/.test(await page.text('main')), 20_000)
    await page.go('/settings')
    await page.sees('its board in the list', async () => /Bench shelf/.test(await page.text('[data-board]')))
    // The file with its passwords is on the board, and none of them in the terminal of the demo.
    const secrets: string[] = []
    const every = (v: unknown): void => {
      if (typeof v === 'string' && v.length >= 8) secrets.push(v)
      else if (typeof v === 'object' && v !== null)
        Object.entries(v).forEach(([k, w]) => /password|key/.test(k) && every(w))
    }
    const whole: unknown = JSON.parse(
      fs.readFileSync(path.join(opened.demo.folder, 'cable/32-class/secret.json'), 'utf8'),
    )
    const walk = (v: unknown): void => {
      every(v)
      if (typeof v === 'object' && v !== null) Object.values(v).forEach(walk)
    }
    walk(whole)
    expect(secrets.length).toBeGreaterThan(0)
    for (const secret of secrets) expect(opened.demo.output()).not.toContain(secret)
  }, 120_000)

  test('the interpreter anew by a port as the browser gives it, the files kept', async () => {
    await page.go('/node/bench-shelf/program')
    await opened.driver.executeScript(OWN_PORT)
    await page.press('Write the board')
    await page.press('Choose a port')
    await page.sees('the port', async () => /a port of this computer/.test(await page.text('.write-board')))
    const given = await fetch(`${opened.demo.url}/api/standin/cable/image`)
    const folder = tempFolder()
    fs.writeFileSync(path.join(folder, 'image.bin'), Buffer.from(await given.arrayBuffer()))
    await (await page.find('#w-image')).sendKeys(path.join(folder, 'image.bin'))
    await page.sees('the image', async () => (await page.attribute('[data-image]', 'data-image')) === 'fits')
    await page.click('#w-keep')
    await page.click('#w-files')
    await page.click('.write-board .btn-primary')
    await page.sees('written', async () => /written and compared/.test(await page.text('.write-said')), 60_000)
    await idle()
    // Its files were kept: they run on the new interpreter.
    await page.press('Start it anew and listen')
    await page.sees('it runs', async () => /It runs: in the network/.test(await head()), 30_000)
    await idle()
  }, 90_000)

  test.each([
    ['strap held', /waits to be written/],
    ['12 high', /pin 12/i],
    ['crossed', /Nothing was heard/],
    ['weak supply', /supply fell/],
  ] as const)(
    '%s is named',
    async (trouble, named) => {
      await post('/api/standin', { cable: { trouble } })
      await page.go('/node/bench-shelf/program')
      await page.press('Write the board')
      await page.press('The simulated board')
      await page.press('Start it anew and listen')
      await page.sees(trouble, async () => named.test(await head()), 40_000)
      if ((await page.attribute('.write-board', 'data-doing')) !== 'nothing') await page.press('Stop')
      await idle()
    },
    90_000,
  )

  test('a cable that only charges, and another chip', async () => {
    await post('/api/standin', { cable: { trouble: 'charging only' } })
    await page.go('/node/bench-shelf/program')
    await page.press('Write the board')
    await page.press('The simulated board')
    await page.press('Start it anew and listen')
    await page.sees('no port', async () => /There is no port/.test(await head()), 20_000)
    expect(await page.text('.startup-next')).toMatch(/only charge/)
    await post('/api/standin', { cable: { trouble: 'none' } })
    await post('/api/standin', { cable: { plugIn: 'c3-class' } })
    await page.sees(
      'another class',
      async () => /c3/.test(await (await fetch(`${opened.demo.url}/api/standin/cable`)).text()),
      20_000,
    )
    await page.go('/node/bench-shelf/program')
    await page.press('Write the board')
    await page.press('The simulated board')
    await page.sees('its class', async () => /c3-class/.test(await page.text('.write-board')))
    await page.press('Take the stand-in’s')
    await page.sees('the refusal', async () =>
      /The image is for the C3-class/.test(await page.text('[data-image="refused"]')),
    )
  }, 90_000)
})

test('a board that takes its image over a drive: the file is checked, a torn one refused, the whole one saved', async () => {
  await post('/api/nodes', { name: 'Drive bench', place: '', board: 'board-rp2040-40', edits: [], author: 'bench' })
  const folder = tempFolder()
  const whole = madeDriveFile()
  const [good, torn] = ['whole.uf2', 'torn.uf2'].map((name) => path.join(folder, name)) as [string, string]
  fs.writeFileSync(good, whole)
  fs.writeFileSync(torn, whole.subarray(0, whole.length - 512))
  await page.go('/node/drive-bench/program')
  await page.press('Write the board')
  await (await page.find('#w-image')).sendKeys(torn)
  await page.sees('refused', async () => (await page.attribute('[data-image]', 'data-image')) === 'refused')
  expect(await page.text('[data-image]')).toMatch(/cut short/)
  expect(await page.text('.write-board')).not.toMatch(/Save it for the drive/)
  await (await page.find('#w-image')).sendKeys(good)
  await page.sees('it fits', async () => (await page.attribute('[data-image]', 'data-image')) === 'fits')
  await (opened.driver as Driver).sendDevToolsCommand('Browser.setDownloadBehavior', {
    behavior: 'allow',
    downloadPath: folder,
  })
  await page.press('Save it for the drive')
  const saved = path.join(folder, 'interpreter.uf2')
  await page.sees('the file', async () => fs.existsSync(saved) && fs.statSync(saved).size === whole.length)
  expect(Buffer.compare(fs.readFileSync(saved), whole)).toBe(0)
  expect(await page.text('.write-board')).toMatch(/Hold the button on the board while the cable goes in/)
}, 60_000)

describe('bring-up', () => {
  test('a wrong divider is found by its measurement, and what is kept is there again', async () => {
    await page.go('/node/slip-tank')
    await page.click('[data-rule="input-over-maximum"] .btn-primary')
    await page.saved()
    await page.go('/node/slip-tank/bring-up')
    await page.press('Dividers')
    await page.sees('the step', async () => /behind its divider/.test(await page.text('.bringup-step h2')))
    // The resistors have changed places: by Ohm’s law less than half comes through.
    const span = await page.attribute('.span-drawing', 'aria-label')
    const [, low = '', high = ''] = /from ([\d.]+) V to ([\d.]+) V/.exec(span ?? '') ?? []
    const share = (Number(low) + Number(high)) / 2 / 5
    await page.type('#bu-value', String(Math.round(100 * 5 * (1 - share)) / 100))
    await page.sees('the verdict', async () => (await page.attribute('.bringup-step', 'data-verdict')) === 'wrong')
    expect(await page.text('.step-verdict .startup-next')).toMatch(/changed places/)
    await page.type('#bu-who', 'bench')
    await page.press('Keep it')
    await page.sees('kept', async () => /not as it should be, bench/.test(await page.text('.bringup-step')))
    await page.go('/node/slip-tank/bring-up')
    await page.press('Dividers')
    await page.sees('kept still', async () => /not as it should be, bench/.test(await page.text('.bringup-step')))
    await opened.noViolations()
  }, 60_000)

  test('a press ticks itself; what moves does not open before it is confirmed', async () => {
    await page.press('Inputs and outputs')
    for (let i = 0; i < 8 && !/Press it/.test(await page.text('.bringup-step')); i++) await page.press('on →')
    expect(await page.text('.bringup-step')).toMatch(/It ticks itself/)
    await post('/api/standin', { board: 'slip-tank', deed: { press: 200 } })
    await page.sees('ticked', async () => /seen by itself/.test(await page.text('.bringup-step')), 20_000)
    for (let i = 0; i < 8 && !/load connected/.test(await page.text('.bringup-step h2')); i++)
      await page.press('← back')
    expect(await page.count('.bringup-step .step-how')).toBe(0)
    await page.type('.step-caution input', 'bench')
    await page.press('It is so')
    await page.sees('open', async () => (await page.count('.bringup-step .step-how')) === 1)
  }, 60_000)

  test('a tank that moves by itself is no hand, and a no stands; a warmed probe is one', async () => {
    await page.press('Inputs and outputs')
    const title = () => page.text('.bringup-step h2')
    const expected = () => page.text('.step-expect')
    const until = async (wanted: RegExp) => {
      for (let i = 0; i < 6 && !wanted.test(await title()); i++) await page.press('← back')
      for (let i = 0; i < 12 && !wanted.test(await title()); i++) await page.press('on →')
    }
    await until(/level by hand/)
    await page.press('It is not')
    await page.sees('the no', async () => /not as it should be/.test(await page.text('.bringup-step')))
    const said = new Set<string>()
    const counts = /counts from [\d.]+ mm within half a minute/
    await page.sees(
      'it moves alone',
      async () => said.add(await expected()).size > 5 && counts.test(await expected()),
      90_000,
    )
    expect(await page.text('.bringup-step')).toMatch(/Last: not as it should be/)
    expect(await page.count('.step-verdict.is-wrong')).toBe(1)
    await until(/water by hand/)
    await page.sees('how it moves alone', async () => /counts from/.test(await expected()), 60_000)
    await post('/api/standin', { board: 'slip-tank', deed: { warm: 0, for: 60 } })
    await page.sees('ticked', async () => /seen by itself/.test(await page.text('.bringup-step')), 60_000)
  }, 200_000)
})

import { Key, type WebDriver } from 'selenium-webdriver'
import type { Driver } from 'selenium-webdriver/chrome'
import fs from 'node:fs'
import path from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { cutLine } from '../support/cutLine'
import { type Demo, hands, openBrowser, startDemo, startOwn } from '../support/demo'
import { SLIP_TANK, tempFolder } from '../support/product'

let demo: Demo
let driver: WebDriver
let page: ReturnType<typeof hands>
let line: Awaited<ReturnType<typeof cutLine>>

beforeAll(async () => {
  demo = await startDemo()
  driver = await openBrowser()
  line = await cutLine(demo.url)
  page = hands(driver, line.url)
}, 240_000)
afterAll(async () => {
  await driver?.quit()
  await line?.end()
  await demo?.stop()
})

const devtools = (command: string, params: object) => (driver as Driver).sendDevToolsCommand(command, params)
const label = () => page.attribute('[data-part="button-ground"] input', 'value')
const rename = async (part: string, to: string) => {
  await page.type(`[data-part="${part}"] input`, `${to}${Key.ENTER}`)
}
/** Asks the server itself, from within the page. */
const edit = (body: object) =>
  driver.executeAsyncScript(
    `
  const [node, body, done] = arguments
  fetch('/api/snapshot').then((r) => r.json()).then((s) => {
    const { seq } = s.nodes.find((n) => n.id === node)
    return fetch('/api/nodes/' + node + '/edits', { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ id: crypto.randomUUID(), document: node, base: seq, body, author: 'other', at: new Date().toISOString() }) })
  }).then((r) => done(r.status), (e) => done(String(e)))`,
    SLIP_TANK,
    body,
  )

describe('two tabs on one node', () => {
  test('share one stream; an edit in one is in the other; undo takes back one’s own past another’s; the last tab goes on alone', async () => {
    await page.go('/node/slip-tank/parts')
    const first = await driver.getWindowHandle()
    await driver.switchTo().newWindow('tab')
    const second = await driver.getWindowHandle()
    await page.go('/node/slip-tank/parts')
    const lines = () =>
      driver.executeScript<number>(
        "return performance.getEntriesByType('resource').filter((e) => e.name.includes('/api/live')).length",
      )
    await page.sees(
      'the line of the joining tab closed again',
      async () =>
        (await driver.executeScript<string>("return document.querySelector('[data-link]').dataset.link")) === 'up',
    )
    expect(await lines()).toBeLessThanOrEqual(1)

    await rename('button-ground', 'Foot switch')
    await page.saved()
    await driver.switchTo().window(first)
    await page.sees('the other tab’s edit', async () => (await label()) === 'Foot switch')
    await rename('relay-module-low', 'Pump switch')
    await page.saved()
    await driver.switchTo().window(second)
    await page.sees(
      'the first tab’s edit',
      async () => (await page.attribute('[data-part="relay-module-low"] input', 'value')) === 'Pump switch',
    )
    await page.click('h1')
    await page.held('z', Key.CONTROL)
    await page.sees(
      'own edit taken back, the other’s standing',
      async () =>
        (await label()) === 'Button' &&
        (await page.attribute('[data-part="relay-module-low"] input', 'value')) === 'Pump switch',
    )
    await page.saved()

    // The tab that held the line goes; the other takes over without a hole.
    await driver.switchTo().window(first)
    await driver.close()
    await driver.switchTo().window(second)
    expect(await edit({ kind: 'rename-part', partId: 'pumprelay', label: 'Pump relay' })).toBe(200)
    await page.sees(
      'what came after',
      async () => (await page.attribute('[data-part="relay-module-low"] input', 'value')) === 'Pump relay',
      6000,
    )
  })
})

describe('cut off', () => {
  test('the page says so and keeps edits; on return they are saved, unless another changed the same place, which is said', async () => {
    await page.go('/node/slip-tank/parts')
    line.set(true)
    await rename('button-ground', 'Bell push')
    await page.sees('not saved yet', async () => (await page.attribute('[data-saving]', 'data-saving')) === 'waiting')
    await page.sees('the server away', async () => /cannot be reached/.test(await page.text('.lost')), 40_000)
    line.set(false)
    await page.sees(
      'saved by itself',
      async () => (await page.attribute('[data-saving]', 'data-saving')) === 'saved',
      15_000,
    )
    await page.sees('the line up again', async () => (await page.count('.lost')) === 0, 15_000)

    expect(await edit({ kind: 'rename-part', partId: 'button', label: 'Theirs' })).toBe(200)
    await page.sees('theirs', async () => (await label()) === 'Theirs')
    line.set(true)
    await rename('button-ground', 'Mine')
    await page.sees('waiting', async () => (await page.attribute('[data-saving]', 'data-saving')) === 'waiting')
    // Another browser is not cut off.
    const answer = (await fetch(`${demo.url}/api/snapshot`).then((r) => r.json())) as {
      nodes: { id: string; seq: number }[]
    }
    const seq = answer.nodes.find((n) => n.id === SLIP_TANK)?.seq
    const sent = await fetch(`${demo.url}/api/nodes/${SLIP_TANK}/edits`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({
        id: crypto.randomUUID(),
        document: SLIP_TANK,
        base: seq,
        body: { kind: 'rename-part', partId: 'button', label: 'Button' },
        author: 'other',
        at: new Date().toISOString(),
      }),
    })
    expect(sent.status).toBe(200)
    line.set(false)
    await page.sees('the clash said', async () => /Mine[\s\S]*was not saved/.test(await page.text('.said')), 20_000)
    await page.sees('theirs standing', async () => (await label()) === 'Button')
  }, 90_000)

  test('of a shop that has not been heard from nothing is said; what was missing comes by itself', async () => {
    const blocked = (urls: string[]) => devtools('Network.setBlockedURLs', { urls })
    await devtools('Network.enable', {})
    try {
      for (const [at, unknown, known] of [
        ['/', /nodes\s–[\s\S]*standing\s–/, /nodes\s6[\s\S]*standing\s\d+ stops/],
        ['/settings', /broker\s–\sline to it\s–/, /our own[\s\S]*up/],
      ] as const) {
        await blocked(['*/api/*'])
        await driver.get(line.url + at)
        await page.sees('the server away', async () => /cannot be reached/.test(await page.text('.lost')))
        expect(await page.text('.title')).toMatch(unknown)
        await blocked([])
        await page.sees(
          'all of it',
          async () => (await page.count('.lost')) === 0 && known.test(await page.text('.title')),
        )
      }
      await page.find('#s-own')
      // Where the broker is alone does not come.
      await blocked(['*/api/settings'])
      await driver.get(`${line.url}/settings`)
      await page.sees('why they are missing', async () =>
        /could not be read: The server did not answer\. It is tried again by itself/.test(
          await page.text('.work [role="alert"]'),
        ),
      )
      expect(await page.count('#s-own')).toBe(0)
      await blocked([])
      await page.find('#s-own')
    } finally {
      await blocked([])
    }
  }, 90_000)
})

describe('the loom under strain', () => {
  const overflow = () =>
    driver.executeScript<
      string[]
    >(`return [...document.querySelectorAll('.loom .face b, .loom .face small, h1, .title .fact')].flatMap((e) => {
    const r = e.getBoundingClientRect(), s = getComputedStyle(e), parent = (e.closest('td') ?? e.parentElement).getBoundingClientRect()
    return r.right > parent.right + 2 && s.overflow !== 'hidden' ? [e.textContent] : []
  })`)

  test('thirty threads, the longest names, and none', async () => {
    for (let i = 0; i < 13; i++)
      expect(
        await edit({
          kind: 'add-part',
          partId: `many${'abcdefghijklm'[i]}`,
          part: 'button-ground',
          label: `Button ${i}`,
          signals: [
            {
              id: `sm${'abcdefghijklm'[i]}`,
              channel: 'press',
              name: i === 0 ? 'The very long name of a button that calls the house at once' : `press number ${i}`,
            },
          ],
        }),
      ).toBe(200)
    for (let i = 0; i < 13; i++)
      expect(
        await edit({
          kind: 'add-part',
          partId: `more${'abcdefghijklm'[i]}`,
          part: 'thermometer-one-wire',
          label: i === 0 ? 'A thermometer with a name as long as one can be, to the end.' : `Probe ${i}`,
          signals: [{ id: `so${'abcdefghijklm'[i]}`, channel: 'temperature' }],
        }),
      ).toBe(200)
    await page.go('/node/slip-tank')
    await page.sees('all threads', async () => (await page.count('.loom tbody tr')) === 30)
    expect(await overflow()).toEqual([])
    // The last row comes into view by keyboard alone.
    await page.click('[data-cell="slevel-part"]')
    await page.keys(...Array.from({ length: 29 }, () => Key.ARROW_DOWN))
    expect(
      await driver.executeScript<boolean>(
        `const r = document.activeElement.getBoundingClientRect(); return r.top >= 0 && r.bottom <= innerHeight`,
      ),
    ).toBe(true)
    for (let i = 0; i < 13; i++)
      for (const p of ['many', 'more'])
        expect(await edit({ kind: 'remove-part', partId: `${p}${'abcdefghijklm'[i]}` })).toBe(200)
  }, 90_000)

  test('a silent node is said to be silent', async () => {
    await page.go('/node/slip-tank')
    await page.sees('heard', async () => /[0-9] s ago/.test(await page.text('.title')))
    await driver.executeAsyncScript(
      "const done = arguments[0]; fetch('/api/standin', { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ board: 'slip-tank', deed: { cut: true } }) }).then((r) => done(r.status))",
    )
    await page.sees('gone', async () => /gone: no sign of life/.test(await page.text('.title')), 30_000)
    await driver.executeAsyncScript(
      "const done = arguments[0]; fetch('/api/standin', { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ board: 'slip-tank', deed: { cut: false } }) }).then((r) => done(r.status))",
    )
    await page.sees('back', async () => !/gone: no sign of life/.test(await page.text('.title')), 30_000)
  }, 90_000)

  test('200 % zoom loses nothing, reduced motion moves nothing, focus is always seen', async () => {
    await devtools('Emulation.setDeviceMetricsOverride', {
      width: 640,
      height: 400,
      deviceScaleFactor: 2,
      mobile: false,
    })
    await page.go('/node/slip-tank')
    await page.find('.loom tbody tr')
    expect(await driver.executeScript<boolean>('return document.documentElement.scrollWidth <= innerWidth + 1')).toBe(
      true,
    )
    await driver.executeScript("document.querySelector('.finding').scrollIntoView()")
    expect(
      await driver.executeScript<boolean>(
        "const r = document.querySelector('.finding').getBoundingClientRect(); return r.width > 200 && r.left >= 0 && r.right <= innerWidth + 1",
      ),
    ).toBe(true)
    await devtools('Emulation.setDeviceMetricsOverride', {
      width: 1280,
      height: 800,
      deviceScaleFactor: 1,
      mobile: false,
    })
    await devtools('Emulation.setEmulatedMedia', { features: [{ name: 'prefers-reduced-motion', value: 'reduce' }] })
    await page.go('/node/slip-tank')
    await page.sees(
      'a value',
      async () => Number(await page.attribute('[data-signal="level"] .now b', 'data-value')) > 0,
    )
    expect(await driver.executeScript<number>('return document.getAnimations().length')).toBe(0)
    await devtools('Emulation.setEmulatedMedia', { features: [] })
    const unseen: string[] = []
    for (let i = 0; i < 25; i++) {
      await page.keys(Key.TAB)
      const bare = await driver.executeScript<string | null>(
        "const e = document.activeElement; const at = e.querySelector('.face') ?? e; const s = getComputedStyle(at); return s.outlineStyle === 'none' && e !== document.body ? e.outerHTML.slice(0, 80) : null",
      )
      if (bare) unseen.push(bare)
    }
    expect(unseen).toEqual([])
  })
})

test('every page forbids scripts that are not its own, and none of ours breaks that', async () => {
  const response = await fetch(`${demo.url}/node/slip-tank`)
  const policy = response.headers.get('content-security-policy') ?? ''
  expect(policy).toMatch(/script-src 'self' 'nonce-[^']+' 'strict-dynamic';/)
  expect(/script-src[^;]*unsafe/.test(policy)).toBe(false)
  await page.go('/')
  expect(
    await driver.executeAsyncScript<string>(`const done = arguments[0]
    document.addEventListener('securitypolicyviolation', (e) => done(e.violatedDirective))
    const s = document.createElement('div'); s.innerHTML = '<img src=x onerror="document.title=1">'; document.body.append(s); setTimeout(() => done('ran'), 2000)`),
  ).toMatch(/script-src/)
})

test('a backup is put back on screen while the product runs, and a wrong file changes nothing', async () => {
  const folder = tempFolder()
  const [good, wrong] = [path.join(folder, 'good.tar.gz'), path.join(folder, 'wrong.tar.gz')]
  fs.writeFileSync(good, Buffer.from(await (await fetch(`${demo.url}/api/backup`)).arrayBuffer()))
  fs.writeFileSync(wrong, 'no backup')
  await page.go('/node/slip-tank/parts')
  await rename('button-ground', 'After the backup')
  await page.saved()
  await page.go('/settings')
  const put = async (file: string) => {
    await (await page.find('#s-file')).sendKeys(file)
    await page.press('Put it in place')
  }
  await put(wrong)
  await page.sees(
    'the refusal',
    async () => /no backup of this product, or is damaged/.test(await page.text('[data-restore]')),
    30_000,
  )
  await put(good)
  await page.sees('the restore', async () => /Restored: 6 nodes/.test(await page.text('[data-restore]')), 60_000)
  await page.go('/node/slip-tank/parts')
  await page.sees('the label of before', async () => (await label()) === 'Button')
  await page.sees(
    'the node back on the broker',
    async () => /[1-6] nodes? heard/.test(await page.text('.topbar')),
    30_000,
  )
}, 120_000)

describe('a shop of one’s own', () => {
  test('beyond this machine it demands a password and names, then asks for it at the door', async () => {
    await expect(startOwn({ VIVID_HOST: '0.0.0.0' })).rejects.toThrow(/VIVID_SHOP_PASSWORD must be set/)
    await expect(startOwn({ VIVID_HOST: '0.0.0.0', VIVID_SHOP_PASSWORD: 'cone six oxidation' })).rejects.toThrow(
      /VIVID_NAMES must be set/,
    )
    const own = await startOwn({
      VIVID_HOST: '0.0.0.0',
      VIVID_SHOP_PASSWORD: 'cone six oxidation',
      VIVID_NAMES: 'yard.test',
    })
    const there = hands(driver, own.url.replace('0.0.0.0', '127.0.0.1'))
    try {
      const get = (at: string, headers = {}) => fetch(own.url + at, { headers, redirect: 'manual' })
      expect((await get('/api/snapshot')).status).toBe(401)
      expect((await get('/api/health')).status).toBe(200)
      expect((await get('/')).headers.get('location')).toBe(`${own.url}/login`)
      expect((await get('/', { 'x-forwarded-proto': 'https' })).headers.get('location')).toMatch(/^https:.*\/login$/)
      await driver.get(`${own.url}/`)
      await there.type('#shop-password', 'wrong')
      await there.press('Enter')
      await there.sees('the refusal', async () => /not the password/.test(await there.text('main')))
      await there.type('#shop-password', 'cone six oxidation')
      await there.press('Enter')
      await there.sees('the empty shop', async () => /What should it know or do\?/.test(await there.text('main')))
      await there.sees('a line to the server', async () => (await there.attribute('[data-link]', 'data-link')) === 'up')
    } finally {
      await own.stop()
    }
  }, 90_000)

  test('its settings are kept, a wrong address is refused in words', async () => {
    const own = await startOwn()
    const there = hands(driver, own.url)
    try {
      await there.go('/settings')
      await there.type('#s-shop', 'Small yard')
      for (const name of ['Shed', 'Loft']) {
        await there.type('[aria-label="name of another place"]', name)
        await there.press('Add')
      }
      await there.click('#s-outside')
      await there.type('#s-url', 'http://elsewhere')
      await there.press('Keep this broker')
      await there.sees('what is expected', async () =>
        /Expected: mqtt:\/\/HOST/.test(await there.text('form[aria-label="broker"]')),
      )
      await there.click('#s-own')
      await there.press('Keep this broker')
      await there.sees('the new name', async () => /Small yard/.test(await there.text('.topbar')))
      await there.go('/')
      await there.find('#wish')
      expect(
        await driver.executeScript<string[]>(
          "return [...document.querySelectorAll('#wish-places option')].map((o) => o.value)",
        ),
      ).toEqual(['Shed', 'Loft'])
    } finally {
      await own.stop()
    }
  }, 90_000)
})

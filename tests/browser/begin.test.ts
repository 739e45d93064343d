import { Key, type WebDriver } from 'selenium-webdriver'
import type { Driver } from 'selenium-webdriver/chrome.js'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { type Demo, hands, openBrowser, startOwn } from '../support/demo'
import { violationsOf } from '../support/violations'

let own: Demo
let driver: WebDriver
let page: ReturnType<typeof hands>
beforeAll(async () => {
  own = await startOwn()
  driver = await openBrowser()
  page = hands(driver, own.url)
}, 240_000)
afterAll(async () => {
  await driver?.quit()
  await own?.stop()
})

const snapshot = async () =>
  (await (await fetch(`${own.url}/api/snapshot`)).json()) as {
    nodes: {
      design: {
        slug: string
        signals: Record<string, { slug: string; conditioning: { patterns: string[] } }>
        plan: { pins: Record<string, string> }
      }
    }[]
  }
const violations = () => violationsOf(driver)

/** Strokes a person makes: every character and every key by itself. */
let strokes = 0
async function type(...keys: string[]) {
  for (const k of keys) strokes += k.length > 1 ? [...k].length : 1
  await page.keys(...keys)
}
const focus = () =>
  driver.executeScript<string>('return document.activeElement.textContent || document.activeElement.id')

describe('an empty shop', () => {
  test('asks for the wish; 21 keys on a cell are begun by keyboard alone, in less than 120 strokes', async () => {
    await page.go('/')
    expect(await focus()).toBe('wish')
    expect(await violations()).toEqual([])
    await type(...'Hand-held with 21 keys, short and long, on a cell')
    await page.sees('three nodes', async () => (await page.count('[data-proposal]')) === 3)
    await page.sees('done', async () => (await page.attribute('.proposals', 'aria-busy')) === 'false')
    expect(await violations()).toEqual([])
    await type(Key.ENTER)
    expect(await focus()).toContain('Take this one')
    await type(Key.ENTER)
    await page.sees('its loom', async () => (await page.count('.loom tbody tr')) === 21)
    const [node] = (await snapshot()).nodes
    const signals = Object.values(node?.design.signals ?? {})
    expect(signals.map((s) => s.conditioning.patterns.join())).toEqual(signals.map(() => 'single,long'))
    expect(Object.keys(node?.design.plan.pins ?? {})).toHaveLength(10)
    expect(strokes).toBeLessThan(120)
  })

  test('what cannot be done yet is said beside the proposals; a node is begun with place and name, or not at all', async () => {
    await page.keys(Key.ESCAPE)
    await page.find('table.nodes')
    await page.keys('n')
    await page.find('#wish')
    await page.type('#wish', 'Climate without network every ten minutes, a year on 1 000 mAh')
    await page.sees('what is missing', async () => /Not yet: Where there is no network/.test(await page.text('.wish')))
    await page.sees('a proposal', async () => /not the 12 months/.test(await page.text('[data-proposal="1"]')))
    await page.type('#wish-name', ' ')
    await page.press('Take this one')
    await page.sees('why not', async () => /at least one character/.test(await page.text('.wish')))
    expect((await snapshot()).nodes).toHaveLength(1)
    await page.type('#wish-name', 'Damp shelf')
    await page.type('#wish-place', 'Damp cupboard')
    await page.press('Take this one')
    await page.sees('the loom', async () => (await page.count('.loom tbody tr')) === 2)
    await page.sees('its place', async () => /Damp cupboard/.test(await page.text('.topbar')))
  })

  test('a step that is refused leaves nothing behind and says which', async () => {
    const before = (await snapshot()).nodes.length
    const answer = await fetch(`${own.url}/api/nodes`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', origin: own.url },
      body: JSON.stringify({
        name: 'Half',
        place: 'Nowhere yet',
        board: 'board-c3-16',
        author: '',
        edits: [
          { kind: 'sleep', everyS: 60 },
          { kind: 'feed-board', rail: 'none.out' },
        ],
      }),
    })
    expect(answer.status).toBe(422)
    expect(await answer.text()).toMatch(/Step 2 \(feed-board\): nothing begins a rail/)
    expect((await snapshot()).nodes).toHaveLength(before)
  })
})

describe('a phone', () => {
  const sized = (width: number, height: number) =>
    (driver as Driver).sendDevToolsCommand('Emulation.setDeviceMetricsOverride', {
      width,
      height,
      deviceScaleFactor: 1,
      mobile: false,
    })
  const NODE = '/node/damp-shelf'
  const PAGES = [
    '/node/hand-held-with-21-keys',
    '/',
    '/begin',
    '/ledger',
    '/shelf',
    '/settings',
    ...['', '/parts', '/power', '/pins', '/wires', '/wires/work', '/program', '/tune', '/publish'].map((p) => NODE + p),
  ]

  test.each([
    [390, 844],
    [1024, 768],
  ])('%i wide: nothing is wider than the screen, the places are in reach, and axe finds nothing', async (w, h) => {
    await sized(w, h)
    for (const at of PAGES) {
      await page.go(at)
      const told = await driver.executeScript<{ wide: string[]; strip: number | null }>(`
        const scrolls = (e) => e && e !== document.body && (/(auto|scroll)/.test(getComputedStyle(e).overflowX) ? e : scrolls(e.parentElement))
        const wide = [...document.querySelectorAll('body *')].filter((e) => {
          const r = e.getBoundingClientRect()
          const box = scrolls(e.parentElement)
          return r.width > 0 && r.right > innerWidth + 1 && !(box && box.getBoundingClientRect().right <= innerWidth + 1) && !e.closest('svg, .visually-hidden, .skip')
        })
        const strip = document.querySelector('.strip')
        return { wide: wide.slice(0, 3).map((e) => e.outerHTML.slice(0, 120)), strip: strip && strip.getBoundingClientRect().bottom }`)
      expect(told.wide, at).toEqual([])
      if (!at.endsWith('/work')) expect(told.strip, at).toBeLessThanOrEqual(h + 1)
      expect(await violations(), at).toEqual([])
    }
    await sized(1280, 800)
  })

  test('proposals stand below one another on a phone, each as wide as the screen', async () => {
    await sized(390, 844)
    await page.go('/begin')
    await page.type('#wish', 'six toggles')
    await page.find('[data-proposal="2"]')
    const boxes = await driver.executeScript<[number, number, number][]>(
      'return [...document.querySelectorAll("[data-proposal]")].map((e) => e.getBoundingClientRect()).map((r) => [r.left, r.right, r.top])',
    )
    expect(new Set(boxes.map(([left]) => left)).size).toBe(1)
    for (const [left, right] of boxes) expect([left >= 0, right <= 390, right - left > 300]).toEqual([true, true, true])
    expect(await violations()).toEqual([])
    await sized(1280, 800)
  })

  test('wires are worked through with a thumb: both ends, warning, back and on stand on the screen', async () => {
    await sized(390, 844)
    await page.go(`${NODE}/wires/work`)
    await page.find('[data-wire-step]')
    const seen = await driver.executeScript<boolean[]>(`
      return ['.ends > :first-child b', '.ends > :last-child b', '[data-tick]', '.bottom button:first-child', '.bottom button:last-child', '.top'].map((css) => {
        const r = document.querySelector('.workthrough ' + css).getBoundingClientRect()
        return r.width > 0 && r.left >= 0 && r.right <= innerWidth && r.top >= 0 && r.bottom <= innerHeight
      })`)
    expect(seen).toEqual([true, true, true, true, true, true])
    const heights = await driver.executeScript<number[]>(
      'return [...document.querySelectorAll(".workthrough .bottom button, [data-tick]")].map((b) => b.getBoundingClientRect().height)',
    )
    expect(Math.min(...heights)).toBeGreaterThanOrEqual(48)
    await sized(1280, 800)
  })
})

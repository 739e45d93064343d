import { Key } from 'selenium-webdriver'
import { describe, expect, test } from 'vitest'
import { demoInBrowser, type Opened } from '../support/demoInBrowser'

const opened = demoInBrowser()
const page = new Proxy({} as Opened['page'], { get: (_, key: keyof Opened['page']) => opened.page[key] })
const now = (slug: string) => page.text(`[data-signal="${slug}"] .now`)

describe('words of a reading', () => {
  test('the loop of an old door says open, closed or cut, and where it stands on its scale', async () => {
    await page.go('/node/gallery-door')
    await page.sees('its word', async () => /open|closed|cut/.test(await now('front-door')), 40_000)
    await page.go('/node/gallery-door/tune?thread=sfrontdoor')
    await page.sees('now on the scale', async () => (await page.count('[data-now]')) === 1, 20_000)
    await opened.noViolations()
  })

  test('made of a level by two buttons, worded, sent, and told by the node', async () => {
    await page.go('/node/slip-tank/tune?thread=slevel')
    await page.press('Make level state')
    await page.sees('its words', async () => (await page.count('[data-word]')) === 2)
    await page.type('#cut-1', '20')
    await page.keys(Key.ENTER)
    await page.type('#word-1', 'filled')
    await page.keys(Key.ENTER)
    await page.saved()
    expect(await page.text('.levels')).not.toMatch(/Found/)
    // A cut that does not rise is refused whole.
    await page.press('One more word')
    await page.sees('three words', async () => (await page.count('[data-word]')) === 3)
    await page.type('#cut-2', '1')
    await page.keys(Key.ENTER)
    await page.sees('the refusal', async () => /cuts that rise/.test(await page.text('.said')))
    await page.click('[aria-label="drop word 3"]')
    await page.sees('two words', async () => (await page.count('[data-word]')) === 2)
    await page.saved()
    await page.go('/node/slip-tank/program')
    await page.keys('S')
    await page.go('/node/slip-tank')
    expect(await page.count('[data-signal="level-state"]')).toBe(1)
  })
})

describe('close listening', () => {
  test('a ranger says its raw distances at the rate it really gives, and stops when told', async () => {
    await page.go('/node/slip-tank/tune?thread=slevel')
    await page.press('Listen')
    await page.sees('samples', async () => Number(await page.attribute('[data-samples]', 'data-samples')) > 20, 20_000)
    expect(await page.text('[data-listening="now"]')).toMatch(/s left\. One every \d+ ms/)
    await page.press('Stop listening')
    await page.sees('nobody listens', async () => (await page.count('[data-listening="no"]')) === 1)
  })

  test('a press is drawn with its bounce beside the debounce it has', async () => {
    await page.go('/node/slip-tank/tune?thread=spress')
    await page.press('Listen')
    await page.sees('listening', async () => (await page.count('[data-listening="now"]')) === 1, 15_000)
    await fetch(`${opened.demo.url}/api/standin`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', origin: opened.demo.url },
      body: JSON.stringify({ board: 'slip-tank', deed: { press: 200 } }),
    })
    await page.sees(
      'both movements',
      async () => Number(await page.attribute('[data-bounces]', 'data-bounces')) >= 2,
      15_000,
    )
    expect(await page.text('[aria-label="bounce"]')).toMatch(/a debounce of 24 ms outlasts it/)
    await opened.noViolations()
  })
})

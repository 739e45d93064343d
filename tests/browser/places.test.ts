import fs from 'node:fs'
import path from 'node:path'
import { Key } from 'selenium-webdriver'
import { describe, expect, test } from 'vitest'
import { shopSchema } from '../../src/core/shop/shop'
import { readShop, shopText } from '../../src/core/shop/readShop'
import { PLACES } from '../../src/ui/shell/places'
import { demoInBrowser, type Opened } from '../support/demoInBrowser'
import { tempFolder } from '../support/product'

const opened = demoInBrowser()
const page = new Proxy({} as Opened['page'], { get: (_, key: keyof Opened['page']) => opened.page[key] })
const shop = async () => shopSchema.parse(await (await fetch(`${opened.demo.url}/api/shop`)).json())

describe('places of work', () => {
  test.each([
    ['shop', '/'],
    ['node', '/node/slip-tank'],
  ] as const)(
    'each of the %s is reached by its key, from any other of them, and says where one is',
    async (of, root) => {
      await page.go(root)
      const places = PLACES.filter((p) => p.of === of)
      for (const place of [...places.slice(1), ...places.slice(0, 1)]) {
        await page.keys(place.key.toLowerCase())
        await page.sees(place.name, async () => (await page.text('.strip .here')).includes(place.name))
        const at = new URL(await opened.driver.getCurrentUrl()).pathname
        expect(at).toBe(of === 'shop' ? place.path : `/node/slip-tank${place.path}`)
      }
    },
  )

  test('all are on the page of keys and in the finder; what is typed goes nowhere', async () => {
    await page.go('/node/slip-tank')
    await page.keys('?')
    await page.find('#keys-title')
    const sheet = await page.text('.modal')
    for (const { key, name } of PLACES) expect(sheet).toContain(`${key} ${name}`)
    await opened.noViolations()
    await page.keys(Key.ESCAPE)
    await page.sees('no dialog', async () => (await page.count('.modal')) === 0)
    await page.keys('/')
    await page.find('.modal input')
    await page.keys('P', 'i', 'n', 's')
    await page.sees('pins among what is found', async () => /Pins/.test(await page.text('.modal')))
    expect(new URL(await opened.driver.getCurrentUrl()).pathname).toBe('/node/slip-tank')
    await page.keys(Key.ESCAPE)
  })

  test('where something stands says how much', async () => {
    await page.go('/node/slip-tank/tune')
    await page.sees('stops at wires', async () =>
      /stop/.test((await page.attribute('.strip a[href$="/wires"] .standing', 'aria-label')) ?? ''),
    )
  })

  test('where a remedy was taken by keyboard, the focus stays in the margin', async () => {
    await page.go('/node/slip-tank')
    await page.find('.margin .finding .btn-primary')
    await opened.driver.executeScript("document.querySelector('.margin .finding .btn-primary').focus()")
    const before = await page.count('.margin .finding')
    await page.keys(Key.ENTER)
    await page.sees('one finding less', async () => (await page.count('.margin .finding')) < before)
    await page.sees('the focus beside what is left', () =>
      opened.driver.executeScript<boolean>("return document.querySelector('.margin').contains(document.activeElement)"),
    )
    await page.keys(Key.TAB)
    expect(
      await opened.driver.executeScript<boolean>(
        "return document.querySelector('.margin').contains(document.activeElement)",
      ),
    ).toBe(true)
    await opened.driver.executeScript('document.activeElement.blur()')
    await page.held('z', Key.CONTROL)
    await page.sees('the finding again', async () => (await page.count('.margin .finding')) === before)
    await page.saved()
  })
})

describe('the shop document', () => {
  test('a place gets another name: the bench says it, its node’s file is another; taken back by Ctrl-Z', async () => {
    await page.go('/settings')
    await opened.noViolations()
    await page.type('#s-place-clayyard', 'Back yard')
    await page.keys(Key.ENTER)
    await page.saved()
    expect((await shop()).places.clayyard?.name).toBe('Back yard')
    await page.go('/node/slip-tank')
    await page.sees('the new name', async () => /Back yard/.test(await page.text('.topbar')))
    await page.sees('behind its design', async () => /revision \d+/.test(await page.text('.title')))
    expect(await page.text('.title')).not.toMatch(/as designed/)
    await page.go('/settings')
    await page.type('#s-place-gallery', 'Hall')
    await page.keys(Key.ENTER)
    await page.saved()
    await opened.driver.executeScript('document.activeElement.blur()')
    await page.held('z', Key.CONTROL)
    await page.sees('taken back', async () => (await shop()).places.gallery?.name === 'Gallery')
  })

  test('who carries the old name is told with its reason, sent in order, and runs', async () => {
    await page.go('/settings')
    await page.press('in which order to send them')
    await page.sees('why', async () => /Clay yard → Back yard/.test(await page.text('[data-sends="slip-tank"]')))
    await opened.noViolations()
    await page.press('Send them in this order')
    await page.sees('it runs', async () => (await page.count('[data-sent="runs"]')) >= 1, 60_000)
    await page.press('Close')
    await page.go('/')
    await page.sees('as designed', async () => !/Send them/.test(await page.text('.title')), 20_000)
  })

  test('a file says first what it would change, and changes it when told; a wrong one is named by line', async () => {
    const folder = tempFolder()
    const before = await shop()
    const [good, wrong] = [path.join(folder, 'good.json'), path.join(folder, 'wrong.json')]
    const places = { ...before.places, loft: { order: 9, name: 'Loft' } }
    fs.writeFileSync(good, shopText({ ...before, currency: 'EUR', places }))
    fs.writeFileSync(wrong, shopText(before).replace('"2.4"', '"6"'))
    await page.go('/settings')
    await (await page.find('#s-shop-file')).sendKeys(wrong)
    await page.sees('the line', async () =>
      /line \d+, column \d+, networks › house › band/.test(await page.text('[aria-label="shop document"]')),
    )
    await (await page.find('#s-shop-file')).sendKeys(good)
    await page.sees('what would change', async () =>
      /currency: null → "EUR"[\s\S]*places › loft: add Loft/.test(await page.text('[aria-label="shop document"]')),
    )
    expect(await shop()).toEqual(before)
    await page.press('Take these changes')
    await page.saved()
    const after = await shop()
    expect(readShop(shopText(after))).toMatchObject({ value: { currency: 'EUR', places: { loft: { name: 'Loft' } } } })
  })
})

/** What a person does in the demo's workshop by hand. */
const standin = (body: unknown) =>
  fetch(`${opened.demo.url}/api/standin`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  })

describe('the shop by hand', () => {
  test('a gone node stands first, says what it was and why, and what to look at next', async () => {
    await page.go('/')
    await page.sees('it is here', async () => /\d/.test(await page.text('.nodes tbody')))
    await standin({ board: 'kiln-vent', deed: { fault: 'no network', for: 600 } })
    await page.sees(
      'first of all rows',
      async () =>
        /^kiln-vent[\s\S]*(power for only|without a goodbye)/.test(
          await page.text('.nodes tbody tr:first-child[data-gone]'),
        ),
      60_000,
    )
    await page.go('/node/kiln-vent')
    await page.sees('reasons', async () => /kiln-vent is gone[\s\S]*supply is there/.test(await page.text('.gone-why')))
    await page.sees('what it was', async () =>
      /was (on|off)[\s\S]*ago/.test(await page.text('[data-signal="extractor"] .now')),
    )
    expect(await page.count('[data-signal="extractor"] [data-switch]')).toBe(0)
    await opened.noViolations()
  })

  test('sending past a stop names it, asks who goes on, and the logbook keeps that', async () => {
    await page.go('/node/slip-tank/tune?thread=slevel')
    await page.find('#median')
    await page.keys()
    await opened.driver.executeScript(
      `const m = document.querySelector('#median'); const set = Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, 'value').set; set.call(m, '9'); m.dispatchEvent(new Event('change', { bubbles: true }))`,
    )
    await page.saved()
    await page.press('Send')
    await page.sees('what stands', async () =>
      /ECHO can reach 5\.00 V[\s\S]*logbook keeps/.test(await page.text('.modal')),
    )
    await opened.noViolations()
    await page.type('#go-on-by', 'bench hand')
    await page.press('Send all the same')
    await page.sees('it runs', async () => (await page.attribute('[data-running]', 'data-current')) === 'true', 40_000)
    await page.press('history')
    await page.sees('who went on', async () =>
      /bench hand[\s\S]*revision \d+ sent past[\s\S]*ECHO can reach/.test(await page.text('.modal')),
    )
    await page.keys(Key.ESCAPE)
  })

  test('a controller’s login is made, shown once, and withdrawn', async () => {
    await page.go('/settings')
    await page.type('#controller-name', 'attic')
    await page.press('Make the login')
    await page.sees('its password, once', async () =>
      /name attic, password \S{20}/.test(await page.text('[data-shown="controller"]')),
    )
    await opened.noViolations()
    await page.press('It is entered')
    await page.sees('no password', async () => (await page.count('[data-shown="controller"]')) === 0)
    await page.click('[aria-label="withdraw attic"]')
    await page.sees('gone', async () => (await page.count('[data-controller="attic"]')) === 0)
  })

  test('short and long on one key are on all keys of the panel by one more press', async () => {
    await page.go('/node/wheel-panel/program')
    await page.press('What it does by itself')
    const first = '[data-presses]:nth-of-type(1)'
    await page.find(first)
    await page.click(`${first} .chips button:nth-of-type(5)`)
    await page.click(`${first} [data-same]`)
    await page.sees('nothing is left to give', async () => (await page.count(`${first} [data-same]`)) === 0)
    await page.held('z', Key.CONTROL)
    await page.sees('taken back in one', async () => (await page.count(`${first} [data-same]`)) === 1)
  })

  test('a node is copied, retired, and deleted with its name typed', async () => {
    await page.go('/node/gallery-door')
    await page.press('Copy this node')
    await page.press('Make the copy')
    await page.sees('the copy', async () => /gallery-door 2/.test(await page.text('h1')))
    await page.press('Retire it')
    await page.press('Retire gallery-door 2')
    await page.sees('the shop without it', async () =>
      /^(?![\s\S]*gallery-door 2)[\s\S]*slip-tank/.test(await page.text('.nodes')),
    )
    await page.go('/settings')
    await page.find('[data-retired]')
    expect(await page.attribute('[data-retired] button[type="submit"]', 'disabled')).not.toBeNull()
    await page.type('[data-retired] input', 'gallery-door 2')
    await page.press('Delete for good')
    await page.sees('deleted', async () => (await page.count('[data-retired]')) === 0)
  })
})

import fs from 'node:fs'
import path from 'node:path'
import { Key, Origin } from 'selenium-webdriver'
import { expect, test } from 'vitest'
import { demoInBrowser, type Opened } from '../support/demoInBrowser'
import { tempFolder } from '../support/product'

const opened = demoInBrowser()
const page = new Proxy({} as Opened['page'], { get: (_, key: keyof Opened['page']) => opened.page[key] })
const noViolations = () => opened.noViolations()

test('the shop is a workshop in the middle of its work: six nodes, each with what stands against it', async () => {
  await page.go('/')
  await page.sees('six nodes', async () => (await page.count('.nodes tbody tr')) === 6)
  await noViolations()
  await page.go('/node/damp-cupboard')
  await page.sees('two parts of one address', async () => /both 0x76 on one bus/.test(await page.text('.margin')))
  await page.go('/node/wheel-panel/wires')
  await page.sees('a lamp that lifts an open input', async () => /stands 3\.60 V/.test(await page.text('.margin')))
  await page.press('Feed LAMP + from 3.3 V')
  await page.sees('it is gone', async () => !/stands 3\.60 V/.test(await page.text('.margin')))
})

test('an address clash is ended at a click and taken back', async () => {
  await page.go('/node/damp-cupboard/parts')
  await page.press('Set Lower shelf to 0x77')
  await page.sees('no clash', async () => (await page.count('[data-rule="address-clash"]')) === 0)
  await page.click('h1')
  await page.held('z', Key.CONTROL)
  await page.sees('the clash again', async () => (await page.count('[data-rule="address-clash"]')) === 1)
})

test('parts are found by what they do, added by count, copied, and the list of costs follows', async () => {
  await page.go('/node/yard-bridge/parts')
  await noViolations()
  const parts = await page.count('[data-part]')
  await page.type('#shelf-wish', 'door kettle')
  await page.sees('nothing answers both words', async () =>
    /Nothing on the shelf/.test(await page.text('[aria-label="on the shelf"]')),
  )
  await page.type('#shelf-wish', 'window')
  await page.type('#shelf-count', '3')
  await page.click('[data-shelf="contact-reed"] button')
  await page.sees('three contacts', async () => (await page.count('[data-part]')) === parts + 3)
  await page.sees('a pack of five', async () => /Reed contact[\s\S]*3[\s\S]*1 × 5/.test(await page.text('[data-bill]')))
  await page.click('[aria-label="copy Store light"]')
  await page.sees(
    'a second light sensor at the other address',
    async () =>
      (
        await opened.driver.executeScript<string[]>(
          'return [...document.querySelectorAll(\'[id$="-address"]\')].map((s) => s.value)',
        )
      )
        .sort()
        .join() === '0x23,0x3C,0x5C',
  )
  await page.saved()
})

test('a thread is moved by keys and by hand; what follows is said before it is let go, and a refusal says why', async () => {
  await page.go('/node/slip-tank/pins')
  const thread = await page.find('[data-line="button.a"]')
  await opened.driver.executeScript('arguments[0].focus()', thread)
  await page.keys(Key.ARROW_DOWN, Key.ARROW_DOWN)
  await page.sees('a consequence', async () => (await page.count('[data-aim]')) === 1)
  const aimed = await page.attribute('[data-aim]', 'data-aim')
  expect(await page.text('[data-aim]')).toMatch(/Costs|Cannot be/)
  await page.keys(Key.ESCAPE)
  await page.sees(
    'nothing changed',
    async () =>
      (await page.count('[data-aim]')) === 0 &&
      /on D23/.test((await page.attribute('[data-line="button.a"]', 'aria-label')) ?? ''),
  )
  expect(aimed).not.toBe('D23')

  // By hand: the relay over D14, which pulses, is refused; let go over D26 it moves there.
  const at = async (label: string) =>
    opened.driver.executeScript<{ x: number; y: number }>(
      `
    const t = [...document.querySelectorAll('main svg text')].find((e) => e.textContent === arguments[0])
    const dots = [...document.querySelectorAll('main svg circle')].map((c) => c.getBoundingClientRect())
    const r = t.getBoundingClientRect()
    const d = dots.sort((a, b) => Math.hypot(a.x - r.x, (a.y - r.y) * 3) - Math.hypot(b.x - r.x, (b.y - r.y) * 3))[0]
    return { x: Math.round(d.x + d.width / 2), y: Math.round(d.y + d.height / 2) }`,
      label,
    )
  const relay = await page.find('[data-line="pumprelay.in"]')
  const [over, to] = [await at('D14'), await at('D26')]
  await opened.driver
    .actions()
    .move({ origin: relay })
    .press()
    .move({ ...over, origin: Origin.VIEWPORT })
    .perform()
  await page.sees('the refusal', async () =>
    /Cannot be: D14 pulses while the chip starts/.test(await page.text('[data-aim]')),
  )
  await opened.driver
    .actions()
    .move({ ...to, origin: Origin.VIEWPORT })
    .perform()
  await page.sees('the cost', async () => /on D26[\s\S]*Costs/.test(await page.text('[data-aim]')))
  await opened.driver.actions().release().perform()
  await page.sees('moved and locked', async () =>
    /locked on D26/.test((await page.attribute('[data-line="pumprelay.in"]', 'aria-label')) ?? ''),
  )
  await page.click('h1')
  await page.held('z', Key.CONTROL)
  await page.sees('taken back', async () =>
    /on D13/.test((await page.attribute('[data-line="pumprelay.in"]', 'aria-label')) ?? ''),
  )
})

test('any number of a pin leads to it; the board turns over; a free pin tells its quirk and can be kept free', async () => {
  await page.go('/node/slip-tank/pins')
  await page.type('#pin-find', 'GPIO16')
  await page.sees('what is printed', async () => /printed RX2, chip 16/.test(await page.text('[data-found]')))
  await page.keys(Key.ENTER)
  await page.sees('its facts', async () => /taken on larger modules/.test(await page.text('[data-pin-facts="RX2"]')))
  await page.press('Keep it free')
  await page.sees('kept', async () => /kept free/.test((await page.attribute('[data-free="RX2"]', 'aria-label')) ?? ''))
  await page.press('Give it back')
  const left = () =>
    opened.driver.executeScript<number>(
      'return document.querySelector(\'[data-line="pumprelay.in"]\').getBoundingClientRect().x',
    )
  const before = await left()
  await page.press('Turn over')
  await page.sees('left and right changed', async () => (await left()) > before + 200)
  await noViolations()
  await page.press('All functions')
  await page.sees('all it can do', async () => /touch · pulses|pulses.*touch|analog/.test(await page.text('main svg')))
})

test('a full board says what conflicts and is freed at a click; boards are ranked beside it', async () => {
  await page.go('/')
  await page.press('new node')
  await page.press('begin with a board alone')
  await page.type('#nn-name', 'call panel')
  await opened.driver.executeScript("document.querySelector('#nn-board').value = 'board-8266-16'")
  await page.press('Begin')
  await page.sees('the node', async () => /call-panel/.test(await opened.driver.getCurrentUrl()))
  const at = new URL(await opened.driver.getCurrentUrl()).pathname
  await page.go(`${at}/parts`)
  await page.type('#shelf-wish', 'push button')
  await page.type('#shelf-count', '12')
  await page.click('[data-shelf="button-ground"] button')
  await page.saved()
  await page.go(`${at}/pins`)
  await page.sees('the conflict', async () => /lines need a pin, and only/.test(await page.text('.margin')))
  await page.sees('ways out', async () => (await page.attribute('[data-frees]', 'data-frees')) === 'done', 30_000)
  expect(await page.text('[data-frees]')).toMatch(/Gather 12 buttons: key matrix 3 × 4[\s\S]*then every line has a pin/)
  await page.press('Which boards carry this?')
  await page.sees('all ranked', async () => (await page.count('[data-boards="done"] tr[data-board]')) === 6, 30_000)
  expect(await page.text('[data-board="board-8266-16"]')).toMatch(/cannot/)
  await page.press('Gather 12 buttons: key matrix 3 × 4')
  await page.sees(
    'every line has a pin',
    async () => (await page.count('[data-frees]')) === 0 && (await page.count('[data-line]')) === 7,
  )
  await page.click('h1')
  await page.held('z', Key.CONTROL)
  await page.sees('taken back whole', async () => (await page.count('[data-frees]')) === 1)
})

test('the shelf lays things side by side; a file goes out and comes in, a wrong one is told by line and column', async () => {
  await page.go('/shelf')
  await noViolations()
  await page.press('RP2040 radio board')
  await page.sees('two side by side', async () => (await page.count('[data-facts]')) === 2)
  const board = await (await fetch(`${opened.demo.url}/api/shelf?item=board-c3-16`)).text()
  const folder = tempFolder()
  const [good, wrong] = [path.join(folder, 'mine.json'), path.join(folder, 'wrong.json')]
  const mine = board
    .replace('"id": "board-c3-16"', '"id": "board-mine"')
    .replace(/"name": "C3-class stamp, 16 pins"/, '"name": "Stamp of my own"')
  fs.writeFileSync(good, mine)
  fs.writeFileSync(wrong, mine.replace('"startup": "floats"', '"startup": "flots"'))
  await (await page.find('#s-item')).sendKeys(wrong)
  await page.sees('the place', async () =>
    /line \d+, column \d+[\s\S]*did you mean “floats”\?/.test(await page.text('[data-problems]')),
  )
  await page.press('Close')
  await (await page.find('#s-item')).sendKeys(good)
  await page.sees('on the shelf', async () => (await page.count('[data-facts="board-mine"]')) === 1)
  const out = await (await fetch(`${opened.demo.url}/api/shelf?item=board-mine`)).text()
  expect(out).toBe(mine)
  // A node on it carries it along, and the command line needs nothing else.
  await page.go('/node/gallery-door/parts')
  await opened.driver.executeScript(
    "const s = document.querySelector('#board'); s.value = 'board-mine'; s.dispatchEvent(new Event('change', { bubbles: true }))",
  )
  await page.saved()
  const nodes = (
    (await (await fetch(`${opened.demo.url}/api/snapshot`)).json()) as {
      nodes: { id: string; design: { slug: string } }[]
    }
  ).nodes
  const design = await (
    await fetch(`${opened.demo.url}/api/nodes/${nodes.find((n) => n.design.slug === 'gallery-door')?.id}/design`)
  ).text()
  expect(JSON.parse(design)).toMatchObject({ board: { id: 'board-mine' }, items: { boards: [{ id: 'board-mine' }] } })
})

test('nodes live: states say their own words, a lamp is dimmed from the loom, and what is no share is refused', async () => {
  await page.go('/node/gallery-door')
  await page.sees(
    'the door’s words',
    async () =>
      /open|closed/.test(await page.text('[data-signal="back-door"] .now')) &&
      /open|closed|cut/.test(await page.text('[data-signal="front-door"] .now')),
    30_000,
  )
  // Its part warms up for a minute before it is believed.
  await page.sees(
    'motion’s words',
    async () => /still|motion/.test(await page.text('[data-signal="motion"] .now')),
    70_000,
  )
  await page.go('/node/yard-bridge')
  await page.type('[data-dim="yard-lamp"]', '140')
  await page.keys(Key.ENTER)
  await page.sees('the refusal', async () => /takes 0 to 100/.test(await page.text('.said')))
  await page.type('[data-dim="yard-lamp"]', '40')
  await page.keys(Key.ENTER)
  await page.sees(
    'what the node said',
    async () => /40\s*%/.test(await page.text('[data-signal="yard-lamp"] .now b')),
    15_000,
  )
  await page.go('/node/wheel-panel')
  await page.sees('a press of its own accord', async () => /ago/.test(await page.text('.loom')), 60_000)
}, 180_000)

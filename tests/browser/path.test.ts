import mqtt, { type MqttClient } from 'mqtt'
import { Key, type WebDriver } from 'selenium-webdriver'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { type Demo, hands, openBrowser, startDemo } from '../support/demo'
import { until } from '../support/product'
import { violationsOf } from '../support/violations'

let demo: Demo
let driver: WebDriver
let page: ReturnType<typeof hands>
let outside: MqttClient
const last = new Map<string, string>()

const number = async (css: string, name: string) => Number(await page.attribute(css, name))
const level = async () => Number(last.get('vn/slip-tank/level'))

beforeAll(async () => {
  demo = await startDemo()
  driver = await openBrowser()
  page = hands(driver, demo.url)
  outside = await mqtt.connectAsync(demo.mqttUrl, { username: 'outside', password: demo.outsidePassword })
  outside.on('message', (topic, payload) => last.set(topic, payload.toString()))
  await outside.subscribeAsync(['vn/#', 'standin/#'])
}, 240_000)

afterAll(async () => {
  await outside?.endAsync(true)
  await driver?.quit()
  await demo?.stop()
})

const noViolations = async () => expect(await violationsOf(driver)).toEqual([])

test('the demo opens on a living node', async () => {
  await page.go('/')
  await page.sees('a value in the shop', async () => /mm/.test(await page.text('.nodes tbody')), 60_000)
  await noViolations()
  await page.press('slip-tank')
  await page.sees('four threads', async () => (await page.count('.loom tbody tr')) === 4)
  await page.sees('a level in the loom', async () => (await number('[data-signal="level"] .now b', 'data-value')) > 0)
  await noViolations()
})

test('values are in the loom within a second of the broker', async () => {
  const next = () =>
    new Promise<{ value: string; at: number }>((resolve) => {
      const listener = (topic: string, payload: Buffer) => {
        if (topic !== 'vn/slip-tank/level') return
        outside.off('message', listener)
        resolve({ value: payload.toString(), at: Date.now() })
      }
      outside.on('message', listener)
    })
  const delays: number[] = []
  while (delays.length < 3) {
    const { value, at } = await next()
    await page
      .sees(value, async () => (await page.attribute('[data-signal="level"] .now b', 'data-value')) === value, 900)
      .then(
        () => delays.push(Date.now() - at),
        () => delays.push(Infinity),
      )
  }
  expect(delays.filter((d) => d < 1000).length).toBeGreaterThanOrEqual(2)
})

test('the keyboard moves over the loom, Enter opens the bench at the thread, Escape returns', async () => {
  await page.click('[data-cell="slevel-part"]')
  await page.keys(Key.ARROW_DOWN, Key.ARROW_RIGHT, Key.ARROW_RIGHT, Key.ARROW_RIGHT, Key.ENTER)
  await page.sees('the pins bench at the pump', async () =>
    (await driver.getCurrentUrl()).endsWith('/pins?thread=spump'),
  )
  await page.sees('the reason for its pin', async () =>
    /held off until the program runs/.test(await page.text('[data-reason="pumprelay.in"]')),
  )
  await noViolations()
  await page.keys(Key.ESCAPE)
  await page.sees('the loom', async () => (await driver.getCurrentUrl()).endsWith('/node/slip-tank'))
})

test('the divider is applied, taken back, applied again, and its working opens', async () => {
  const standing = () => page.count('[data-rule="input-over-maximum"]')
  await page.click('[data-rule="input-over-maximum"] .btn-quiet')
  expect(await page.text('.working')).toMatch(/5\.00 V[\s\S]*3\.46 V/)
  await page.click('[data-rule="input-over-maximum"] .btn-primary')
  await page.sees('no over-voltage', async () => (await standing()) === 0)
  await page.saved()
  await page.held('z', Key.CONTROL)
  await page.sees('the over-voltage again', async () => (await standing()) === 1)
  await page.held('z', Key.CONTROL, Key.SHIFT)
  await page.sees('no over-voltage', async () => (await standing()) === 0)
  await page.saved()
  await page.keys('3')
  await page.sees('the divider in the drawing', async () => /R1 1\.5/.test(await page.text('main svg')))
  await page.sees('its wires in the schedule', async () => (await page.count('.schedule tbody tr')) === 31)
  await noViolations()
})

test('a caution stands until a person puts a name to it', async () => {
  await page.keys('0')
  await page.find('[data-rule="caution"]')
  await page.type('[data-rule="caution"] input', 'A. Potter')
  await page.click('[data-rule="caution"] button[type="submit"]')
  await page.sees('the caution gone', async () => (await page.count('[data-rule="caution"]')) === 0)
})

test('two tape-measure pairs make the published level right', async () => {
  await until(
    () => last.has('standin/5f0c2b1e-8a47-4c36-9d52-1b7e6a90c3d1/tape') && last.has('vn/slip-tank/level'),
    20_000,
  )
  const wrong = Math.abs(
    (await level()) -
      (JSON.parse(last.get('standin/5f0c2b1e-8a47-4c36-9d52-1b7e6a90c3d1/tape') ?? '{}') as { levelM: number }).levelM *
        1000,
  )
  expect(wrong).toBeGreaterThan(9)
  await page.go('/node/slip-tank/tune?thread=slevel')
  await page.find('[data-tape]')
  const takePair = async () => {
    await page.sees(
      'a settled mean',
      async () => /Mean of [3-9] readings/.test(await page.text('[aria-label="pairs"]')),
      15_000,
    )
    await page.press('write it in')
    await page.press('Take the pair')
  }
  await takePair()
  const from = await level()
  await page.keys(Key.ESCAPE)
  await page.go('/node/slip-tank')
  await page.click('[data-switch="pump"]')
  await page.sees(
    'the pump on',
    async () => (await page.attribute('[data-signal="pump"] .now b', 'data-value')) === 'true',
  )
  await until(() => Number(last.get('vn/slip-tank/level')) > from + 150, 60_000)
  await page.click('[data-switch="pump"]')
  await page.sees(
    'the pump off',
    async () => (await page.attribute('[data-signal="pump"] .now b', 'data-value')) === 'false',
  )
  await page.go('/node/slip-tank/tune?thread=slevel')
  await new Promise((r) => setTimeout(r, 6000))
  await takePair()
  expect(await page.text('.working')).toMatch(/a = \(y₂ − y₁\)[\s\S]*no estimate of error/)
  await noViolations()
  await page.type('#initials', 'AP')
  await page.press('Use this calibration')
  await page.sees('the calibration in the design', async () =>
    /from 2 pairs/.test(await page.text('[aria-label="curve"]')),
  )
  await page.saved()
  await page.press('Send')
  await page.sees(
    'the node runs the design',
    async () => (await page.attribute('[data-running]', 'data-current')) === 'true',
    30_000,
  )
  expect(await number('[data-running]', 'data-running')).toBe(2)
  await new Promise((r) => setTimeout(r, 2500))
  const tape =
    (JSON.parse(last.get('standin/5f0c2b1e-8a47-4c36-9d52-1b7e6a90c3d1/tape') ?? '{}') as { levelM: number }).levelM *
    1000
  expect(Math.abs((await level()) - tape)).toBeLessThanOrEqual(3)
}, 180_000)

test('switching the pump on screen switches it in the world, comes back as state, and the controller shows it', async () => {
  await page.go('/node/slip-tank/publish')
  await page.find('[data-listed="pump"]')
  await noViolations()
  const tape = () =>
    (JSON.parse(last.get('standin/5f0c2b1e-8a47-4c36-9d52-1b7e6a90c3d1/tape') ?? '{}') as { pump: boolean }).pump
  const listed = () => page.attribute('[data-listed="pump"]', 'data-listed-value')
  expect(tape()).toBe(false)
  await page.click('[data-switch="pump"]')
  await until(() => last.get('vn/slip-tank/pump') === 'true', 5000)
  await until(() => tape(), 3000)
  await page.sees('the controller lists it on', async () => (await listed()) === 'true', 5000)
  await page.press('switch it from the controller')
  await page.sees('the controller lists it off', async () => (await listed()) === 'false', 5000)
  await until(() => last.get('vn/slip-tank/pump') === 'false' && !tape(), 3000)
  const entities = JSON.parse(last.get('standin/controller/entities') ?? '[]') as {
    id: string
    kind: string
    value: unknown
  }[]
  expect(
    entities
      .filter((e) => e.id.includes('5f0c2b1e-8a47-4c36-9d52-1b7e6a90c3d1'))
      .map((e) => e.kind)
      .sort(),
  ).toEqual(['availability', 'diagnostic', 'event', 'switch', 'value', 'value'])
})

test('parts are added, renamed and removed, a wrong name is refused in words, and another board keeps the design', async () => {
  await page.go('/node/slip-tank/parts')
  await page.find('[data-part="button-ground"]')
  await noViolations()
  await page.type('#shelf-wish', 'push button')
  await page.click('[aria-label="add Push button to ground"]')
  await page.sees('eight parts', async () => (await page.count('[data-part]')) === 8)
  const field = (await driver.findElements({ css: '[data-part="button-ground"] input[id$="-label"]' })).at(-1)
  await field?.sendKeys(Key.chord(Key.CONTROL, 'a'), 'Call button', Key.ENTER)
  await page.sees('the new name', async () => (await page.count('section[aria-label="Call button"]')) === 1)
  await page.type('#slevel-slug', 'status')
  await page.keys(Key.ENTER)
  await page.sees('the refusal and what is accepted', async () =>
    /meaning of its own[\s\S]*Accepted/.test(await page.text('.said[data-tone="refused"]')),
  )
  await page.click('#board')
  await page.click('#board option[value="board-8266-16"]')
  await page.saved()
  await page.press('Pins')
  await page.sees('all lines on the smaller board', async () => (await page.count('[data-line]')) === 7)
  await noViolations()
  await page.held('z', Key.CONTROL)
  await page.keys('1')
  await page.click('[aria-label="remove Call button"]')
  await page.sees('seven parts again', async () => (await page.count('[data-part]')) === 7)
  await page.saved()
})

test('the ledger shows what passes and what was made of it, filters, pauses, and marks what is odd', async () => {
  await page.go('/ledger')
  await page.sees('messages', async () => (await page.count('.ledger-row')) > 5)
  await noViolations()
  await page.type('#l-text', 'L1 level:')
  await page.sees('levels only', async () => {
    // Read at one moment: rows move while the broker is busy.
    const topics: string[] = await driver.executeScript(
      'return [...document.querySelectorAll(".ledger-row button")].map((b) => b.textContent)',
    )
    return topics.length > 0 && topics.every((t) => t === 'vn/slip-tank/level')
  })
  await page.press('Pause')
  const first = await page.text('.ledger-row')
  await new Promise((r) => setTimeout(r, 2500))
  expect(await page.text('.ledger-row')).toBe(first)
  await page.click('.ledger-row button')
  expect(await page.text('[data-understood]')).toMatch(/slip-tank L1 level: \d+ mm/)
  await page.press('Go on')
  await page.type('#l-text', Key.DELETE)
  // Whoever reads further down keeps their place while newer rows come in above.
  const under = (y: number) =>
    driver.executeScript<string>(`return document.elementFromPoint(500, ${y}).closest('.ledger-row')?.textContent`)
  const total = async () => Number(/of (\d+)/.exec(await page.text('.title'))?.[1])
  await page.sees('more than fits', async () => (await total()) > 60)
  await driver.executeScript('document.querySelector(".work.ledger").scrollTop = 340')
  await page.sees('the way back', async () => (await page.count('.title button')) === 2)
  const [read, before] = [await under(500), await total()]
  expect(read).toMatch(/^\d\d:\d\d:\d\d/)
  await page.sees('more has come', async () => (await total()) > before + 20)
  expect(await under(500)).toBe(read)
  await page.press('To the newest')
  await page.sees(
    'the newest again',
    async () => (await under(500)) !== read && (await page.count('.title button')) === 1,
  )
  await expect(
    mqtt.connectAsync(demo.mqttUrl, { username: 'outside', password: 'guessed', reconnectPeriod: 0 }),
  ).rejects.toThrow()
  await page.click('#l-kind option[value="refused"]')
  await page.sees('the refused login', async () =>
    /refused[\s\S]*login of “outside” refused/.test(await page.text('.ledger-row')),
  )
})

test('a new node begins with a wish and has its pins at once', async () => {
  await page.go('/')
  await page.keys('n')
  await page.press('begin with a board alone')
  await page.type('#nn-name', 'Glaze bucket')
  await page.press('Begin')
  await page.sees('the node', async () => /glaze-bucket/.test(await driver.getCurrentUrl()))
  await page.sees('the question', async () => /What should it know or do/.test(await page.text('main')))
  await page.keys('n')
  await page.type('.finder input', 'how full')
  await page.keys(Key.ENTER)
  await page.sees('a thread with its pins', async () => /D\d+·D\d+/.test(await page.text('.loom tbody')))
  await noViolations()
})

import fs from 'node:fs'
import path from 'node:path'
import mqtt from 'mqtt'
import { Key } from 'selenium-webdriver'
import { describe, expect, test } from 'vitest'
import { demoInBrowser, type Opened } from '../support/demoInBrowser'
import { tempFolder, until } from '../support/product'

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

const deed = (board: string, what: object) =>
  fetch(`${opened.demo.url}/api/standin`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', origin: opened.demo.url },
    body: JSON.stringify({ board, deed: what }),
  })

/** Sent from where one stands, and running. */
const send = async () => {
  await page.press('Send')
  await page.sees(
    'the node runs the design',
    async () => (await page.attribute('[data-running]', 'data-current')) === 'true',
    60_000,
  )
}

describe('a calibration', () => {
  test('what stands against sending is put right first', async () => {
    await page.go('/node/slip-tank')
    await page.click('[data-rule="input-over-maximum"] .btn-primary')
    await page.sees('no over-voltage', async () => (await page.count('[data-rule="input-over-maximum"]')) === 0)
    await page.type('[data-rule="caution"] input', 'A. Potter')
    await page.click('[data-rule="caution"] button[type="submit"]')
    await page.sees('the caution gone', async () => (await page.count('[data-rule="caution"]')) === 0)
    await page.saved()
  })

  test('from a file of pairs: the bend is proposed, one pair set aside, the band drawn, and the node computes with it', async () => {
    const file = path.join(tempFolder(), 'pairs.csv')
    const bent = (x: number) => x + 4 + 0.0002 * (x - 300) ** 2
    const rows = [100, 180, 260, 340, 420, 500, 580].map(
      (x, i) => `${x},${(bent(x) + (i % 2 ? 0.4 : -0.4)).toFixed(2)},0.5`,
    )
    fs.writeFileSync(file, ['raw,reference,uncertainty', ...rows, '300,350,0.5'].join('\n'))
    await page.go('/node/slip-tank/tune?thread=slevel')
    await page.click('[aria-label="pairs"] summary')
    await (await page.find('#pair-file')).sendKeys(file)
    await page.sees('eight pairs', async () => (await page.count('[aria-label="pairs taken"] tbody tr')) === 8)
    expect(await page.attribute('tr[data-stranger="true"]', 'data-aside')).toBe('')
    await page.click('[aria-label="set pair 8 aside"]')
    await page.type('#aside-why', 'the tape hung loose')
    await page.keys(Key.ENTER)
    await page.sees('the bend', async () => (await page.attribute('[data-fit]', 'data-model')) === 'quadratic')
    const band = Number(await page.attribute('[data-band]', 'data-band'))
    expect(band).toBeGreaterThan(0.5)
    expect(band).toBeLessThan(4)
    expect(await page.text('[data-model="table"]')).toMatch(/mm/)
    await opened.noViolations()
    await page.type('#initials', 'tb')
    await page.press('Use this calibration')
    await page.sees('it in the design', async () => /second order/.test(await page.text('[aria-label="curve"]')))
    await page.saved()
    await send()
    // A curve is not undone backwards: pairs are taken from the part itself then.
    await page.press('Listen to the part itself')
    await page.sees('a raw mean', async () => (await page.attribute('[data-raw]', 'data-raw')) !== '', 20_000)
    await page.press('drop it')
    await page.saved()
  })
})

describe('references at home', () => {
  test('a jar of salt says what it holds at its temperature, writes it in, and leaves a reminder', async () => {
    await page.go('/node/damp-cupboard/tune')
    const thread = await opened.driver.executeScript<string>(
      "return [...document.querySelectorAll('#tune-signal option')].find((o) => /humid/i.test(o.textContent))?.textContent ?? ''",
    )
    await page.select('#tune-signal', thread.trim())
    await page.click('[aria-label="references at home"] summary')
    await page.select('#recipe', 'jar over table salt, NaCl')
    await page.type('#recipe-asks', '25')
    await page.sees('its value', async () =>
      /^75\.2/.test((await page.attribute('[data-reference]', 'data-reference')) ?? ''),
    )
    await page.press('write it in')
    expect(await page.attribute('#reference', 'value')).toMatch(/^75\.[23]/)
    await opened.noViolations()
  })
})

describe('a threshold', () => {
  test('recorded with a held key, proposed, put into the state, sent; a lost echo darkens nothing', async () => {
    await page.go('/node/slip-tank/tune?thread=slevel')
    await page.type('#record-word', 'filled')
    await page.type('#record-for', '60')
    await page.press('Record')
    const heard = async () => Number(/(\d+) samples/.exec(await page.text('[aria-label="traces"]'))?.[1] ?? 0)
    await page.sees('samples', async () => (await heard()) > 15, 20_000)
    const { driver } = opened
    await driver.actions().keyDown(' ').perform()
    await page.sees('the mark', async () => /is marked/.test(await page.text('[aria-label="traces"]')))
    await page.sees('more samples', async () => (await heard()) > 60, 30_000)
    await driver.actions().keyUp(' ').perform()
    await page.press('Stop and keep it')
    await page.sees('the desk', async () => (await page.attribute('[data-desk]', 'data-desk')) === 'filled')
    await page.press('Propose')
    await page.sees('a proposal', async () => (await page.count('[data-proposed]')) === 1, 30_000)
    await page.press('lay it on')
    const cost = Number(await page.attribute('[data-cost]', 'data-cost'))
    // Dragged away from where it is best it costs more.
    const line = await page.find('#cut')
    for (let i = 0; i < 12; i++) await line.sendKeys(Key.PAGE_UP)
    await page.sees('its price', async () => Number(await page.attribute('[data-cost]', 'data-cost')) >= cost)
    await page.press('lay it on')
    await page.type('#hold-off', '30')
    await page.keys(Key.ENTER)
    await page.type('#hold-on', '0')
    await page.keys(Key.ENTER)
    // Beyond any doubt the tank of today is on this side.
    await page.type('#cut-typed', '100')
    await page.keys(Key.ENTER)
    await page.select('#side', 'above')
    await page.press('Put it into')
    await page.saved()
    await page.go('/node/slip-tank/tune?thread=slevel')
    expect(await page.count('#kept')).toBe(1)
    await send()
    const said: string[] = []
    const outside = await mqtt.connectAsync(opened.demo.mqttUrl, {
      username: 'outside',
      password: opened.demo.outsidePassword,
    })
    outside.on('message', (topic, payload) => said.push(`${topic.split('/').at(-1)} ${payload.toString()}`))
    await outside.subscribeAsync(['vn/slip-tank/level', 'vn/slip-tank/level-state'])
    await until(
      () => said.includes('level-state true'),
      20_000,
      () => said.slice(0, 9).join(' | '),
    )
    await deed('slip-tank', { fault: 'unplugged', for: 4 })
    await until(() => said.includes('level null'), 20_000)
    await until(() => said.slice(said.indexOf('level null')).some((m) => /^level \d/.test(m)), 20_000)
    expect(said).not.toContain('level-state false')
    await outside.endAsync(true)
  })
})

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
    // The simulated button bounces for some ms; what it has is more than the smallest that counts once.
    expect(await page.text('[aria-label="bounce"]')).toMatch(/From \d+ ms on none counts twice, at a delay of/)
    const smallest = Number(await page.attribute('[data-smallest]', 'data-smallest'))
    expect(smallest).toBeLessThan(24)
    await page.press(`Set ${Math.max(5, Math.ceil(smallest * 1.5))} ms`)
    await page.sees('in the design', async () => Number(await page.attribute('#debounce', 'value')) !== 24)
    await page.saved()
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
    // The same pairs once more, only as a check: it holds, and that is kept beside it.
    expect(await page.text('[aria-label="curve"]')).toMatch(/Good until \d{4}-\d\d-\d\d/)
    await (await page.find('#pair-file')).sendKeys(file)
    await page.sees('eight pairs', async () => (await page.count('[aria-label="pairs taken"] tbody tr')) === 8)
    await page.click('[aria-label="set pair 8 aside"]')
    await page.type('#aside-why', 'the tape hung loose')
    await page.keys(Key.ENTER)
    await page.press('Only check the one in force')
    await page.sees('it holds', async () =>
      /still held, off by/.test(await page.text('[aria-label="kept calibrations"]')),
    )
    // A curve is not undone backwards: pairs are taken from the part itself then.
    await page.press('Listen to the part itself')
    await page.sees('a raw mean', async () => (await page.attribute('[data-raw]', 'data-raw')) !== '', 20_000)
    await page.press('drop it')
    await page.saved()
  })

  test('of a part that moved to another node goes along', async () => {
    const edits = [
      {
        kind: 'add-part',
        partId: 'far',
        part: 'ranger-echo',
        label: 'Far ranger',
        signals: [{ id: 'sfar', channel: 'distance' }],
      },
    ]
    const made = await fetch(`${opened.demo.url}/api/nodes`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', origin: opened.demo.url },
      body: JSON.stringify({ name: 'Moved to', place: '', board: 'board-32-30', edits, author: 'tb' }),
    })
    expect(await made.text()).toMatch(/moved-to/)
    await page.go('/node/moved-to/tune?thread=sfar')
    await page.click('[aria-label="kept calibrations"] summary')
    await page.sees('where it was', async () => /slip-tank L1/.test(await page.text('[data-elsewhere]')))
    await page.press('it is this part: use it')
    await page.sees('in the design', async () => /second order/.test(await page.text('[aria-label="curve"]')))
    await page.saved()
  })
})

describe('a state learnt from what it reads', () => {
  test('cold and warm: a cut between them, told with how often it is wrong', async () => {
    await page.go('/node/slip-tank/tune')
    await page.select('#tune-signal', 'T1 water')
    await page.click('[data-states] summary')
    const reads = async () => Number(/([\d.]+) °C/.exec(await page.text('[data-states] [role="status"]'))?.[1] ?? NaN)
    await page.sees('a reading', async () => (await reads()) > 0, 30_000)
    const cold = await reads()
    await page.type('#learn-word', 'cold')
    await page.press('Take it')
    await deed('slip-tank', { warm: 0, for: 120 })
    await page.sees('it warms', async () => (await reads()) > cold + 2, 90_000)
    await page.type('#learn-word', 'warm')
    await page.press('Take it')
    await page.sees('a cut', async () => (await page.count('[data-cut]')) === 1)
    const cut = Number(await page.attribute('[data-cut]', 'data-cut'))
    expect(cut).toBeGreaterThan(cold)
    expect(cut).toBeLessThan(cold + 4)
    expect(await page.text('[data-cut]')).toMatch(/of a thousand readings at most [\d.]+ fall on the wrong side/)
    await page.press('Make a state of it')
    await page.sees('its words', async () => (await page.count('[data-word]')) === 2)
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
    await opened.driver.executeScript("document.querySelector('.along input').click()")
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
    const line = await page.find('.cut-handle')
    const at = async () => Number(await page.attribute('.cut-handle', 'aria-valuenow'))
    const proposed = await at()
    await driver.actions().move({ origin: line }).press().move({ origin: line, y: -60 }).release().perform()
    await page.sees('it moved', async () => (await at()) > proposed)
    await page.sees('its price', async () => Number(await page.attribute('[data-cost]', 'data-cost')) >= cost)
    expect(Number(await page.attribute('[data-frontier]', 'data-frontier'))).toBeGreaterThan(0)
    // What was recorded along stands on the same seconds.
    await page.sees('the other signal', async () => (await page.count('[data-along]')) === 1)
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

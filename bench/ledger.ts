import { execFileSync } from 'node:child_process'
import fs from 'node:fs'
import path from 'node:path'
import mqtt from 'mqtt'
import { By, type WebDriver } from 'selenium-webdriver'
import type { Driver } from 'selenium-webdriver/chrome.js'
import { z } from 'zod'
import { openBrowser, startDemo } from '../tests/support/demo'
import { SLIP_TANK, tempFolder } from '../tests/support/product'

const LOOK_MS = 6000
const RATE_MS = 10

interface Frames {
  median: number
  worst: number
  late: number
  frames: number
}

/** Time from frame to frame while `each` is done in every one of them; late are those over 50 ms. Runs in the page. */
const watch = `const [each, ms, done] = [new Function('box', 'n', arguments[0]), arguments[1], arguments[arguments.length - 1]]
const box = document.querySelector('.work.ledger'), gaps = []
let last = performance.now(), n = 0
const end = last + ms
requestAnimationFrame(function frame(now) {
  gaps.push(now - last); last = now; each(box, n++)
  if (now < end) return requestAnimationFrame(frame)
  gaps.shift(); gaps.sort((a, b) => a - b)
  done({ median: gaps[gaps.length >> 1], worst: gaps[gaps.length - 1], late: gaps.filter((g) => g > 50).length, frames: gaps.length })
})`

const DOINGS: [string, string][] = [
  ['still', ''],
  ['scrolled, 400 px a frame', 'box.scrollTop = (n * 400) % Math.max(1, box.scrollHeight - box.clientHeight)'],
  [
    'a word typed into the filter and taken out',
    `if (n % 30 === 0) {
    const field = document.querySelector('#l-text'), words = ['', 'l', 'le', 'lev', 'leve', 'level', 'level 1', 'nothing has this']
    Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(field, words[(n / 30) % words.length])
    field.dispatchEvent(new Event('input', { bubbles: true }))
  }`,
  ],
]

/**
 * The ledger in a real browser with 50 000 messages in it, beside the same with 1 000, while a hundred more come in
 * each second.
 */
export async function ledger(rows: [string, string, string][]): Promise<void> {
  const folder = tempFolder()
  const demo = await startDemo(folder)
  const {
    broker: { name, password },
  } = z
    .object({ broker: z.object({ name: z.string(), password: z.string() }) })
    .parse(JSON.parse(fs.readFileSync(path.join(folder, 'standins', SLIP_TANK, 'secret.json'), 'utf8')))
  const client = await mqtt.connectAsync(demo.mqttUrl, { username: name, password, clientId: 'bench' })
  const driver = await openBrowser()
  // The simulated boards would take turns with the browser on the same processor: they are held still, and a hundred
  // messages a second come from here.
  const boards = Number(execFileSync('pgrep', ['-P', String(demo.child.pid), '-f', 'boards.mjs'], { encoding: 'utf8' }))
  process.kill(boards, 'SIGSTOP')
  try {
    await (driver as Driver).sendDevToolsCommand('Performance.enable', {})
    await driver.manage().setTimeouts({ script: 60_000 })
    let sent = 0
    const publish = () => client.publish('vn/slip-tank/level', String(sent++ % 200))
    const look = async (full: number): Promise<void> => {
      await driver.get(`${demo.url}/ledger`)
      await driver.wait(async () => (await driver.findElements(By.css('[data-link="up"]'))).length > 0, 30_000)
      // No faster than the page is told: every fifth of a second.
      while ((await held(driver)) < full) {
        for (let i = 0; i < 500; i++) publish()
        await new Promise((r) => setTimeout(r, 100))
      }
      const coming = setInterval(publish, RATE_MS)
      for (const [doing, code] of DOINGS) {
        const before = await busy(driver)
        const f = await driver.executeAsyncScript<Frames>(watch, code, LOOK_MS)
        const each = ((await busy(driver)) - before) / f.frames
        rows.push([
          `ledger of ${full} messages, 100 more a second, ${doing}`,
          `${each.toFixed(1)} ms of work a frame; ${f.median.toFixed(1)} ms from frame to frame, at most ${f.worst.toFixed(0)}, ${f.late} of ${f.frames} over 50 ms`,
          full === 50_000 ? 'work ≤ 16 ms' : '',
        ])
      }
      clearInterval(coming)
    }
    await look(1000)
    await look(50_000)
  } finally {
    process.kill(boards, 'SIGCONT')
    await driver.quit()
    await client.endAsync()
    await demo.stop()
  }
}

/** How many messages the page says it holds. */
async function held(driver: WebDriver): Promise<number> {
  return Number(/of (\d+)/.exec(await driver.findElement(By.css('.title')).getText())?.[1] ?? NaN)
}

/** Time the page's main thread has worked so far, ms. */
async function busy(driver: WebDriver): Promise<number> {
  const { metrics } = (await (driver as Driver).sendAndGetDevToolsCommand('Performance.getMetrics', {})) as unknown as {
    metrics: { name: string; value: number }[]
  }
  return (metrics.find((m) => m.name === 'TaskDuration')?.value ?? NaN) * 1000
}

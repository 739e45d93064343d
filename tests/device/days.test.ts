import fs from 'node:fs'
import path from 'node:path'
import { describe, expect, test } from 'vitest'
import { DAY_MS, liveDays } from '../../standins/board/days'
import { runtimeWithout } from '../support/boards'
import { tempFolder } from '../support/product'

// The chip's counter tells before from after for half its round, 6.2 days. What was stamped longer ago must not count
// any more.
const HALF = 2 ** 29

describe('a session of seven days', () => {
  const run = (deviceDir: string, ticksMs: number, untilDay = 7.4) => {
    const flashDir = path.join(tempFolder(), `days-${ticksMs}`)
    fs.mkdirSync(flashDir)
    return liveDays({
      demo: 'slip-tank',
      deviceDir,
      flashDir,
      ticksMs,
      jumpMs: 6000,
      untilMs: untilDay * DAY_MS,
      random: () => 0.4,
      troubles: [
        { kind: 'network', atMs: 7 * DAY_MS, forMs: 150_000 },
        { kind: 'broker', atMs: 7.2 * DAY_MS, forMs: 60_000 },
      ],
    })
  }
  test('ends with a loss, and the node is back within five minutes; no output was on longer than allowed', async () => {
    const { back, longestOnMs, allowedMs, ons, starts } = await run('device', HALF - 30_000)
    expect(back.map((b) => b.kind)).toEqual(['network', 'broker'])
    for (const b of back) expect(b.ms, b.kind).toBeLessThan(300_000)
    expect(ons).toBeGreaterThan(5)
    expect(longestOnMs).toBeLessThanOrEqual(allowedMs + 1000)
    expect(starts).toEqual({ power: 1 })
  }, 420_000)
  test('with a stamp that is kept it stays away for days', async () => {
    const stale = runtimeWithout({
      file: 'vn/node.py',
      find: '        self.retry_at = None\n        self.arriving = once("arrive")',
      put: '        self.arriving = once("arrive")',
    })
    // Half an hour after the network is back it is still away: nothing has come back in time.
    const { back } = await run(stale, HALF - 30_000, 7 + 1 / 48)
    expect(back.every((b) => b.ms === null || b.ms > 300_000)).toBe(true)
  }, 420_000)
})

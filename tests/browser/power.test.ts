import { describe, expect, test } from 'vitest'
import { demoInBrowser, type Opened } from '../support/demoInBrowser'

const opened = demoInBrowser()
const page = new Proxy({} as Opened['page'], { get: (_, key: keyof Opened['page']) => opened.page[key] })
interface Shown {
  sleep: { everyS: number } | null
  measured: Record<string, { value: number; by: string }>
}
const design = async () => {
  const { nodes } = (await (await fetch(`${opened.demo.url}/api/snapshot`)).json()) as {
    nodes: { design: Shown & { slug: string } }[]
  }
  const found = nodes.find((n) => n.design.slug === 'damp-cupboard')
  if (!found) throw new Error('not there')
  return found.design
}
const life = async () => ((await page.attribute('[data-life]', 'data-life')) ?? '').split(' ').map(Number)

describe('the power bench', () => {
  test('a cycle is drawn, its range comes by draws; a year is asked for, applied, and seen', async () => {
    await page.go('/node/damp-cupboard')
    await page.keys('4')
    await page.sees('draws', async () => ((await page.attribute('[data-life]', 'data-life')) ?? '') !== '')
    await opened.noViolations()
    const [p10 = 0, p50 = 0, p90 = 0] = await life()
    expect(p10).toBeLessThan(p50)
    expect(p50).toBeLessThan(p90)
    expect(await page.count('.cycle [data-phase]')).toBe(6)
    expect(await page.text('[aria-label="why so"]')).toMatch(/Join and log in takes \d+ %/)
    expect(p50).toBeLessThan(8766)
    await page.select('#p-wish', 'a year')
    const told = Number(await page.attribute('[data-interval]', 'data-interval'))
    await page.click('[data-interval]')
    await page.saved()
    // Whole minutes, never fewer seconds than it needs.
    const { sleep } = await design()
    expect(sleep?.everyS).toBe(Math.ceil(told / 60) * 60)
    await page.sees('a longer life', async () => ((await life())[1] ?? 0) > p50 * 2)
  })

  test('what a meter shows takes the place of an estimate, with initials, and the range narrows', async () => {
    await page.go('/node/damp-cupboard/power')
    await page.sees('draws', async () => ((await page.attribute('[data-life]', 'data-life')) ?? '') !== '')
    const [low = 0, , high = 0] = await life()
    const row = '[data-input="asleepA"]'
    await page.click(`${row} button`)
    await page.type(`${row} input[aria-label$=", mA"]`, '0.15')
    await page.type(`${row} input[aria-label="initials"]`, 'KY')
    await page.click(`${row} button[type="submit"]`)
    await page.sees('measured', async () => /measured .*KY/.test(await page.text(row)))
    await page.saved()
    expect((await design()).measured.asleepA).toMatchObject({ value: 0.00015, by: 'KY' })
    await page.sees('a narrower range', async () => {
      const [a = 0, , b = 0] = await life()
      return a > 0 && (b - a) / a < (high - low) / low
    })
    await page.click(`${row} button`)
    await page.sees('the estimate again', async () => /I have measured it/.test(await page.text(row)))
  })

  test('half a year of what it told of its cell gives its drain, the day, and why', async () => {
    await page.go('/node/damp-cupboard/power')
    await page.sees('the drain', async () => (await page.count('[data-drain]')) === 1, 20_000)
    const told = await page.text('[aria-label="in service"]')
    // 2.6 times what the design said when the past was made; what it says now is another interval.
    expect(told).toMatch(/drains 2\.[4-7]\d* mA/)
    expect(told).toMatch(/\d\.\d times as much/)
    expect(told).toMatch(/since it was charged on/)
    expect(told).toMatch(/try again and again to join/)
  })

  test('a node on a wire shows its rails and what it costs beside ready-made ones', async () => {
    await page.go('/node/slip-tank/power')
    expect(await page.text('.work')).toMatch(/No cell feeds this node/)
    expect(await page.text('[aria-label="rails"]')).toMatch(/chip and radio/)
    await page.type('#o-hub', '0')
    expect(await page.text('[aria-label="own or bought"]')).toMatch(/\n?12 \d+\.\d\d \d+\.\d\d/)
    await opened.noViolations()
  })
})

import { hands, openBrowser, startDemo } from '../tests/support/demo'

/** Makes the pictures in docs/screenshots from the demo's own data: `node build/pictures.mjs`. */
const demo = await startDemo()
const driver = await openBrowser()
const page = hands(driver, demo.url)
const shots: [string, string, string][] = [
  ['shop', '/', '.nodes'],
  ['loom', '/node/slip-tank', '[data-signal="water"] .now b[data-value]:not([data-value=""])'],
  ['parts', '/node/slip-tank/parts', '[data-part]'],
  ['pins', '/node/slip-tank/pins?thread=slevel', '.pinrow'],
  ['wires', '/node/slip-tank/wires', '.schedule'],
  ['tune', '/node/slip-tank/tune?thread=slevel', '[data-tape]'],
  ['publish', '/node/slip-tank/publish', '[data-listed="water"]'],
  ['entities', '/entities', '[data-told], [data-entity]'],
  ['ledger', '/ledger', '.ledger-row'],
  ['begin', '/begin', '#wish'],
  ['power', '/node/damp-cupboard/power', '[data-life]:not([data-life=""])'],
  ['shelf', '/shelf', '[data-facts]'],
  ['panel', '/node/wheel-panel', '.loom tbody tr'],
  ['bring-up', '/node/slip-tank/bring-up', '.bringup-step'],
  ['work-through', '/node/gallery-door/wires/work', '[data-wire-step]'],
  ['air', '/air', '[data-sender]'],
  ['program', '/node/wheel-panel/program', '.work'],
  ['install', '/node/kiln-vent/program', '.work'],
  ['stand-ins', '/standins', '[data-standin="yard-bridge"]'],
]
try {
  // The level moves for a while first, so that the curve has something to show.
  await page.go('/node/slip-tank')
  await page.click('[data-switch="pump"]')
  await driver.sleep(25_000)
  await page.click('[data-switch="pump"]')
  await driver.sleep(20_000)
  for (const [name, at, ready] of shots) {
    await page.go(at)
    await page.find(ready)
    if (name === 'wires') await page.click('[data-rule="input-over-maximum"] .btn-primary')
    if (name === 'bring-up') {
      await page.press('Dividers')
      await page.type('#bu-value', '1.56')
    }
    if (name === 'work-through')
      for (let n = 0; n < 30 && !/D2/.test(await page.text('.workthrough .step')); n++) await page.press('on →')
    if (name === 'air') {
      await page.sees('a receiver', async () => /yard-bridge/.test(await page.text('.title')), 40_000)
      await page.press('Learn one N')
      for (let n = 0; n < 14 && !/That is it/.test(await page.text('.learn')); n++) {
        await driver.actions().sendKeys(' ').perform()
        await driver.sleep(4000 + 700 * (n % 3))
      }
    }
    if (name === 'program') {
      await page.press('What it does by itself')
      await page.click('[data-presses="music-next"] .chips button:nth-child(2)')
      await page.press('What sending changes')
      await page.press('Show')
    }
    if (name === 'install') await page.press('Write the board')
    if (name === 'stand-ins') await page.click('[data-standin="kiln-vent"] td:nth-child(3) button:nth-child(1)')
    if (name === 'shelf') await page.press('RP2040 radio board')
    if (name === 'begin') {
      await page.type('#wish', 'Light in the glaze store while somebody is there, by distance')
      await page.find('[data-proposal="3"]', 30_000)
    }
    await driver.sleep(2500)
    await driver.executeScript('document.querySelector(".said button")?.click()')
    await driver.sleep(300)
    await page.picture(`docs/screenshots/${name}.png`)
  }
} finally {
  await driver.quit()
  await demo.stop()
}

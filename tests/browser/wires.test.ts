import { Key } from 'selenium-webdriver'
import { describe, expect, test } from 'vitest'
import { demoInBrowser, type Opened } from '../support/demoInBrowser'
import { pdfText } from '../support/pdfText'

const opened = demoInBrowser()
const page = new Proxy({} as Opened['page'], { get: (_, key: keyof Opened['page']) => opened.page[key] })
const noViolations = () => opened.noViolations()
interface Kept {
  measurements: { place: string; value: number; ok: boolean }[]
  log: { what: string }[]
}
async function kept(slug: string): Promise<Kept> {
  const { nodes } = (await (await fetch(`${opened.demo.url}/api/snapshot`)).json()) as {
    nodes: { id: string; design: { slug: string } }[]
  }
  const id = nodes.find((n) => n.design.slug === slug)?.id ?? ''
  const of = async (what: string) => (await (await fetch(`${opened.demo.url}/api/nodes/${id}/${what}`)).json()) as Kept
  return { measurements: (await of('measurements')).measurements, log: (await of('history')).log }
}

describe('the wires bench', () => {
  test('a remedy is applied, drawn, listed as a part, and taken back', async () => {
    await page.go('/node/slip-tank/wires')
    await noViolations()
    const before = await page.count('[data-component]')
    await page.press('Divide 1.5 kΩ over 3.3 kΩ')
    await page.sees('the finding is gone', async () => (await page.count('[data-rule="input-over-maximum"]')) === 0)
    await page.sees('both resistors in the list', async () =>
      /R1, R2/.test(await page.text('[aria-label="added parts"]')),
    )
    await page.sees('both resistors in the drawing', async () =>
      /R1 1\.5 kΩ[\s\S]*R2 3\.3 kΩ/.test(await page.text('.wire-drawing')),
    )
    await page.held('z', Key.CONTROL)
    await page.sees('the finding again', async () => (await page.count('[data-rule="input-over-maximum"]')) === 1)
    expect(await page.count('[data-component]')).toBe(before)
  })

  test('arithmetic opens from the finding with its own values, offers what can be bought, and writes back', async () => {
    await page.go('/node/slip-tank/wires')
    await page.click('[data-rule="input-over-maximum"] button:nth-last-of-type(1)')
    await page.sees('the sum', async () => (await page.attribute('[data-sum]', 'data-sum')) === 'divider')
    expect(await page.attribute('#sum-maxV', 'value')).toBe('5')
    await page.sees('three series', async () => (await page.count('.offers tbody tr')) === 3)
    await noViolations()
    await page.type('#sum-value', '9100')
    await page.sees('a verdict', async () => (await page.attribute('.verdict', 'data-ok')) === 'false')
    await page.click('.offers tbody tr:nth-child(2) button')
    await page.sees('a better one', async () => (await page.attribute('.verdict', 'data-ok')) === 'true')
    await page.click('[data-put]')
    await page.sees('it is in', async () => (await page.count('[data-rule="input-over-maximum"]')) === 0)
    await page.sees(
      'nothing over the page',
      async () => (await page.count('.offcanvas.show, .offcanvas-backdrop')) === 0,
    )
    await page.click('h1')
    await page.held('z', Key.CONTROL)
    await page.sees('taken back', async () => (await page.count('[data-rule="input-over-maximum"]')) === 1)
  })

  test('a cable made longer and colours that look alike are seen at once; an old connection is written down', async () => {
    await page.go('/node/gallery-door/wires')
    await page.sees('the old panel’s record', async () => /Z2: supply AUX/.test(await page.text('[data-place="back"]')))
    await page.go('/node/yard-bridge/wires')
    await page.type('[data-place="lamp"] input', '30')
    await page.keys(Key.ENTER)
    await page.sees('the length in the schedule', async () =>
      /Yard lamp A[\s\S]*30 m/.test(await page.text('.schedule')),
    )
    await page.click('[data-place="lamp"] button')
    await page.type('#found-note', 'by the window')
    await page.press('Write it down')
    await page.sees('what is missing', async () =>
      /Write what stands at the terminal/.test(await page.text('[aria-label="cables"]')),
    )
    await page.type('#found-terminal', 'X9')
    await page.press('Write it down')
    await page.sees('the record', async () =>
      /X9: supply –[\s\S]*by the window/.test(await page.text('[data-place="lamp"]')),
    )
  })
})

test('the thread under the pointer is lit in list, drawing and pins', async () => {
  await page.go('/node/slip-tank/wires')
  const row = await page.find('[data-wire="W10"]')
  await opened.driver.actions().move({ origin: row }).perform()
  await page.sees('the row', async () => /on/.test((await page.attribute('[data-wire="W10"]', 'class')) ?? ''))
  await page.sees(
    'the others step back in the drawing',
    async () => (await page.count('.wire-drawing [opacity="0.3"]')) > 4,
  )
  await page.keys('2')
  await page.sees('its reasons in the pins', async () => /Pump relay IN/.test(await page.text('.margin')))
})

describe('the work-through', () => {
  test('goes wire by wire, ticks, measures with a verdict, and keeps it in the logbook', async () => {
    await page.go('/node/yard-bridge/wires')
    const before = Number(/made\s*(\d+) of/.exec(await page.text('.title'))?.[1] ?? -1)
    await page.press('Work through it')
    await page.sees('the first wire', async () => (await page.count('[data-wire-step]')) === 1)
    await noViolations()
    const first = await page.attribute('[data-wire-step]', 'data-wire-step')
    await page.keys(' ')
    await page.sees('the next', async () => (await page.attribute('[data-wire-step]', 'data-wire-step')) !== first)
    await page.keys(Key.ARROW_LEFT)
    await page.sees(
      'the first again',
      async () => (await page.attribute('[data-wire-step]', 'data-wire-step')) === first,
    )
    await page.keys(Key.ENTER)
    await page.sees('one is done', async () => /1 done/.test(await page.text('.workthrough .top')))
    for (let n = 0; n < 40 && (await page.count('[data-measure]')) === 0; n++) {
      const at = await page.attribute('.workthrough', 'data-step')
      await page.keys(' ')
      await page.sees('the next step', async () => (await page.attribute('.workthrough', 'data-step')) !== at)
    }
    expect(await page.attribute('[data-measure]', 'data-measure')).toMatch(/^ohm:/)
    await page.keys('3', Key.ENTER)
    await page.sees('a verdict against it', async () => (await page.attribute('.verdict', 'data-ok')) === 'false')
    await page.type('.workthrough input', '4k')
    await page.keys(Key.ENTER)
    await page.sees('a verdict for it', async () => (await page.attribute('.verdict', 'data-ok')) === 'true')
    const { measurements, log } = await kept('yard-bridge')
    expect(measurements).toMatchObject([{ value: 4000, ok: true }])
    expect(log.slice(0, 2).map((l) => l.what)).toEqual([
      expect.stringMatching(/4000 Ω, as it should be/),
      expect.stringMatching(/: 3 Ω, not as it should be/),
    ])
    await page.click('.workthrough .top a:last-child')
    await page.sees('one more made', async () => new RegExp(`made\\s*${before + 1} of`).test(await page.text('.title')))
  })

  test('a wire made to another pin is recorded as it is, and what follows is said', async () => {
    await page.go('/node/kiln-vent/wires/work')
    for (let n = 0; n < 60 && !/Vent relay\s*IN/.test(await page.text('.workthrough .step')); n++) {
      const at = await page.attribute('.workthrough', 'data-step')
      await page.press('on →')
      await page.sees('the next step', async () => (await page.attribute('.workthrough', 'data-step')) !== at)
    }
    await page.press('It went to another pin')
    await page.click('[aria-label="the pin it went to"]')
    await page.keys('D0', Key.ENTER)
    await page.sees('it is there', async () => /D0/.test(await page.text('.said')))
    await page.go('/node/kiln-vent/pins')
    await page.sees('what is wrong with it', async () =>
      /Vent relay IN/.test(await page.text('[data-rule="moves-at-power-up"]')),
    )
    await page.click('[data-rule="moves-at-power-up"] button')
    await page.sees('it is moved back', async () => (await page.count('[data-rule="moves-at-power-up"]')) === 0)
  })
})

test('the sheet prints on A4 with cautions, schedule, drawing, parts, measurements and labels, its words as words', async () => {
  await page.go('/node/gallery-door/sheet')
  await page.sees('the schedule', async () => /From|Wires/.test(await page.text('.sheet')))
  await noViolations()
  const printed = await (
    opened.driver as unknown as {
      sendAndGetDevToolsCommand: (cmd: string, params: object) => Promise<{ data: string }>
    }
  ).sendAndGetDevToolsCommand('Page.printToPDF', { preferCSSPageSize: true, printBackground: false })
  const { pages, widthMm, heightMm } = await pdfText(new Uint8Array(Buffer.from(printed.data, 'base64')))
  expect([Math.round(widthMm), Math.round(heightMm)]).toEqual([210, 297])
  expect(pages.length).toBeLessThanOrEqual(6)
  // Kerning parts words in a PDF: letters count, spaces do not.
  const letters = (t: string) => t.replace(/\s+/g, '')
  const text = letters(pages.join(' '))
  for (const word of [
    'gallery-door',
    'Local codes and licensed practice come first',
    'Back door loop ZONE',
    'board A0',
    'W1 ',
    'Measurements',
    'before the chip goes in',
    'Labels for the old wires',
    'Z2 Back door loop',
    'end resistor taken out',
  ])
    expect(text).toContain(letters(word))
  // The drawing is on the paper too: its terminals and numbers stand there as words.
  const drawing = pages.map(letters).find((p) => p.includes('Drawing')) ?? ''
  for (const word of ['ZONE', 'D5', 'GND', 'Gallery motion', 'AUX +']) expect(drawing).toContain(letters(word))
  expect(text).not.toContain(letters('back to the wires'))
})

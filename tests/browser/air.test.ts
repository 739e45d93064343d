import { randomUUID } from 'node:crypto'
import { expect, test } from 'vitest'
import { demoInBrowser, type Opened } from '../support/demoInBrowser'

const opened = demoInBrowser()
const page = new Proxy({} as Opened['page'], { get: (_, key: keyof Opened['page']) => opened.page[key] })

/** What the house controller lists, by its own account. */
async function listed(): Promise<string[]> {
  const answer = await fetch(`${opened.demo.url}/api/snapshot`)
  const { entities } = (await answer.json()) as { entities: { name: string }[] }
  return entities.map((e) => e.name)
}

test('a door is learnt by presses, sent to its receiver, and lives from the air to its entity', async () => {
  await page.go('/air')
  await page.sees('what is known already', async () => (await page.count('[data-sender]')) === 3)
  await opened.noViolations()
  await page.sees('a receiver', async () => /yard-bridge/.test(await page.text('.title')), 40_000)
  await page.press('Learn one N')
  await page.sees(
    'its receivers listening',
    async () => !(await page.text('.title')).includes('nobody listens'),
    20_000,
  )
  const said = async () => page.text('.learn')
  for (let n = 0; n < 16 && !(await said()).includes('That is it.'); n++) {
    const pressedAt = Date.now()
    await page.keys(' ')
    // Presses that are as dense as their answers say nothing: a person takes a breath.
    await page.sees('a breath', () => Promise.resolve(Date.now() - pressedAt > 3800))
  }
  expect(await said()).toMatch(/0001 opened, 1110 closed/)
  await opened.noViolations()
  await page.type('#sender-name', 'Store door')
  await page.select('#sender-place', 'Glaze store')
  await page.press('Keep it')
  await page.sees('its row', async () => (await page.count('[data-sender="store-door"]')) === 1)
  await page.saved()
  await page.press('Send')
  await page.press('Send them in this order')
  await page.sees('it runs', async () => /yard-bridge[\s\S]*runs/.test(await page.text('.modal')), 60_000)
  await page.press('Close')
  const door = async () => page.text('[data-sender="store-door"]')
  for (const [which, word] of [
    [0, 'open'],
    [1, 'closed'],
  ] as const) {
    await opened.driver.executeScript(
      `return fetch('/api/standin', {method: 'POST', headers: {'content-type': 'application/json'}, body: JSON.stringify({air: {trigger: 'store door', which: ${which}, inS: 0}})}).then(r => r.status)`,
    )
    await page.sees(`it is ${word}`, async () => new RegExp(`state ${word} `).test(await door()), 20_000)
  }
  expect(await door()).toMatch(/yard-bridge speaks for it/)
  await page.sees('the controller has it', async () => (await listed()).includes('Store door state'), 20_000)
})

test('what is forgotten is cleared at the broker, and the controller lets it go', async () => {
  await page.go('/air')
  await page.sees('its row', async () => (await page.count('[data-sender="store-door"]')) === 1)
  await page.click('[data-sender="store-door"] button')
  await page.press('Forget it')
  await page.sees('gone', async () => (await page.count('[data-sender="store-door"]')) === 0)
  await page.saved()
  await page.sees('the controller has let go', async () => !(await listed()).includes('Store door state'), 20_000)
})

test('a far thing is switched by codes that are made up for it, and the other receiver hears them', async () => {
  const { url } = opened.demo
  const { nodes } = (await (await fetch(`${url}/api/snapshot`)).json()) as {
    nodes: { id: string; seq: number; design: { slug: string } }[]
  }
  const bridge = nodes.find((n) => n.design.slug === 'yard-bridge')
  const body = {
    kind: 'add-part',
    partId: 'voice',
    part: 'transmitter-subghz',
    label: 'Transmitter',
    signals: [{ id: 'svoice', channel: 'send' }],
  }
  const added = await fetch(`${url}/api/nodes/${bridge?.id}/edits`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', origin: url },
    body: JSON.stringify({
      id: randomUUID(),
      document: bridge?.id,
      base: bridge?.seq,
      body,
      author: 'test',
      at: new Date().toISOString(),
    }),
  })
  expect(added.status).toBe(200)
  // Its cautions stand against it until somebody has read them.
  const read = await fetch(`${url}/api/nodes/${bridge?.id}/acknowledgements`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', origin: url },
    body: JSON.stringify({ findings: ['caution:unseen:voice', 'caution:radio:voice'], name: 'Somebody' }),
  })
  expect(read.status).toBe(201)
  await page.go('/air')
  await page.press('Switch one more')
  await page.type('#say-name', 'Wheel lamp')
  await page.select('#say-codes', 'new ones of latch, on and off')
  await opened.noViolations()
  await page.press('Add it')
  await page.sees('its row', async () => (await page.count('[data-says="wheel-lamp"]')) === 1)
  await page.saved()
  await page.press('Send')
  await page.press('Send them in this order')
  await page.sees('it runs', async () => /yard-bridge[\s\S]*runs/.test(await page.text('.modal')), 60_000)
  await page.press('Close')
  // They listen still, since the door was learnt.
  const row = async () => page.text('[data-says="wheel-lamp"]')
  await page.sees('it can be said', async () => (await row()).includes('Say on'), 20_000)
  await page.press('Say on')
  await page.sees('it was said', async () => / on Say on /.test((await row()).replaceAll(/\s+/g, ' ')), 20_000)
  let looks = 0
  await page.sees(
    'the other hears it, if not the first time',
    async () => {
      // There are walls between: now and then a burst goes unheard, and is said again.
      if (++looks % 20 === 0) await page.press('Say on')
      return /Wheel lamp, said by yard-bridge[\s\S]*wheel-panel [1-9]/.test(await page.text('.work'))
    },
    30_000,
  )
})

import { fork } from 'node:child_process'
import { randomUUID } from 'node:crypto'
import path from 'node:path'
import mqtt from 'mqtt'
import { House } from '../tests/support/house'
import { PASSWORDS } from '../tests/support/product'

const EVERY_MS = 10_000
const WITHIN_MS = 5000
const BASE = 'vn/slip-tank'

/**
 * The house with the product stopped: all simulated boards and the stand-in controller on the broker that stayed, for so
 * many minutes; a command that counts until a moment every ten seconds. Resolves to what came of it, in words.
 */
export async function alone(house: House, minutes: number): Promise<{ wrong: number; words: string }> {
  await (
    await house.serve()
  )('SIGTERM')
  const env = {
    ...process.env,
    VIVID_BROKER_URL: `mqtt://127.0.0.1:${house.port}`,
    VIVID_STANDIN_PASSWORD: PASSWORDS.standinPassword,
    VIVID_CONTROLLER_PASSWORD: PASSWORDS.controllerPassword,
  }
  const children = [
    fork('build/boards.mjs', [path.join(house.folder, 'standins'), process.cwd()], { env, silent: true }),
    fork('build/controller.mjs', [], { env, silent: true }),
  ]
  const client = await mqtt.connectAsync(env.VIVID_BROKER_URL, {
    username: 'controller',
    password: PASSWORDS.controllerPassword,
  })
  const said: { topic: string; text: string }[] = []
  const counts = { messages: 0, offline: 0 }
  let entities = 0
  client.on('message', (topic, payload, { retain }) => {
    counts.messages += 1
    const text = payload.toString()
    if (topic.endsWith('/status') && text.includes('offline') && !retain && !topic.includes('/product/'))
      counts.offline += 1
    if (topic === 'standin/controller/entities') entities = (JSON.parse(text) as unknown[]).length
    if (topic === `${BASE}/pump/done`) said.push({ topic, text })
  })
  await client.subscribeAsync(['vn/#', 'standin/controller/entities'], { qos: 1 })
  await new Promise((r) => setTimeout(r, 40_000))
  counts.offline = 0
  const asked = { all: 0, done: 0, tooLate: 0, none: 0 }
  const end = Date.now() + minutes * 60_000
  for (let on = true; Date.now() < end; on = !on) {
    const id = randomUUID()
    // Every sixth has its moment behind it: it has to be refused for that, which only who knows the time can.
    const past = asked.all % 6 === 5
    const until = Math.floor(Date.now() / 1000) + (past ? -30 : 5)
    asked.all += 1
    await client.publishAsync(`${BASE}/pump/set`, JSON.stringify({ value: on, id, until }), { qos: 1 })
    const limit = Date.now() + WITHIN_MS
    while (!said.some((s) => s.text.includes(id)) && Date.now() < limit) await new Promise((r) => setTimeout(r, 20))
    const text = said.find((s) => s.text.includes(id))?.text
    if (text === undefined) asked.none += 1
    else if (text.includes('too late')) asked.tooLate += past ? 1 : 0
    else if (text.includes('"done"')) asked.done += past ? 0 : 1
    said.length = 0
    await new Promise((r) => setTimeout(r, EVERY_MS))
  }
  const { connected } = client
  await client.endAsync(true)
  for (const child of children) child.kill('SIGKILL')
  const wrong = asked.all - asked.done - asked.tooLate + counts.offline + (connected ? 0 : 1)
  return {
    wrong,
    words: `${minutes} min with the product stopped: ${counts.messages} messages, ${asked.all} commands with an end, ${asked.done} done, ${asked.tooLate} of a moment past refused for it, ${asked.none} unanswered; ${counts.offline} times a node was offline; ${entities} entities at the stand-in controller`,
  }
}

import { randomUUID } from 'node:crypto'
import mqtt from 'mqtt'
import { demo } from '../../src/demo/demoHost'
import { Product } from '../../src/server/product'
import { PASSWORDS, SLIP_TANK } from './product'

/**
 * Has edits, readings, retained messages and passwords acknowledged, and says so for each, until it is killed.
 * Arguments: data folder, broker port.
 */
const [folder = '', port = ''] = process.argv.slice(2)
const product = await Product.start({
  project: process.cwd(),
  dataFolder: folder,
  host: '127.0.0.1',
  mqttPort: Number(port),
  tls: null,
  brokerEnds: true,
  guest: demo(process.cwd(), folder, PASSWORDS, ['slip-tank']),
})
const say = (what: string) => process.stdout.write(`${what}\n`)
await product.logins.set('node-slip-tank', 'node', SLIP_TANK, 'node-pass')
const url = `mqtt://127.0.0.1:${port}`
const client = await mqtt.connectAsync(url, { username: 'node-slip-tank', password: 'node-pass', reconnectPeriod: 0 })

async function edits(): Promise<void> {
  for (;;) {
    const base = product.workshop.get(SLIP_TANK)?.seq ?? 0
    const body = { kind: 'rename-part' as const, partId: 'button', label: `Button ${base}` }
    const at = new Date().toISOString()
    try {
      const outcome = await product.workshop.edit({
        id: randomUUID(),
        document: SLIP_TANK,
        base,
        body,
        author: 'test',
        at,
      })
      say(outcome.kind === 'saved' ? `edit ${outcome.seq}` : `edit ${outcome.kind}`)
    } catch (e) {
      say(`not saved: ${e instanceof Error ? e.message : String(e)}`)
      await new Promise((r) => setTimeout(r, 50))
    }
  }
}
async function readings(): Promise<void> {
  for (let n = 1; ; n++) {
    await client.publishAsync('vn/slip-tank/level', (n / 1000).toFixed(3), { qos: 1 })
    say(`reading ${n}`)
  }
}
async function retained(): Promise<void> {
  for (let n = 1; ; n++) {
    const health = { dbm: -60, uptimeS: n, freeB: 1, supplyV: null, restart: 'power', revision: 1 }
    await client.publishAsync('vn/slip-tank/health', JSON.stringify(health), { qos: 1, retain: true })
    say(`retained ${n}`)
  }
}
async function passwords(): Promise<void> {
  for (let n = 1; ; n++) {
    const kept = await product.credentials.change('house', `password-${n}`).catch((e: unknown) => String(e))
    if (kept === null) say(`password ${n}`)
    await new Promise((r) => setTimeout(r, 20))
  }
}
async function checkpoints(): Promise<void> {
  for (;;) {
    await new Promise((r) => setTimeout(r, 120))
    say('checkpoint begins')
    await product.db.run('checkpoint').catch(() => undefined)
    say('checkpoint ended')
  }
}
await Promise.all([edits(), readings(), retained(), passwords(), checkpoints()])

import { spawn } from 'node:child_process'
import fs from 'node:fs'
import path from 'node:path'
import mqtt, { type MqttClient } from 'mqtt'
import { z } from 'zod'
import { brokerFolderOf, endBroker, runningBroker } from '../../src/server/broker/brokerProcess'
import { spreadAll } from '../../src/server/db/messageRows'
import type { Running } from '../../src/wire/brokerControl'
import { freePort, PASSWORDS, SLIP_TANK, startProduct, tempFolder, until } from './product'

const secretSchema = z.object({ broker: z.object({ name: z.string(), password: z.string() }) })

/** A shop whose broker stays when the product goes, by kill or by a clean end. */
export class House {
  readonly folder = tempFolder()
  private readonly ends: (() => unknown)[] = []

  private constructor(readonly port: number) {
    this.ends.push(() => endBroker(brokerFolderOf(this.folder), false))
  }

  static async build(): Promise<House> {
    return new House(await freePort())
  }

  /** Starts the product in a process of its own; gives what ends it. */
  async serve(): Promise<(signal: 'SIGKILL' | 'SIGTERM') => Promise<void>> {
    const child = spawn(process.execPath, ['build/serving-child.mjs', this.folder, String(this.port), 'stays'], {
      stdio: ['ignore', 'pipe', 'inherit'],
    })
    let said = ''
    child.stdout.on('data', (d: Buffer) => {
      said += d.toString()
    })
    await until(() => said.includes('ready'), 60_000)
    this.ends.push(() => child.exitCode === null && child.kill('SIGKILL'))
    return async (signal) => {
      const gone = new Promise((r) => child.once('exit', r))
      child.kill(signal)
      await gone
    }
  }

  get broker(): Running {
    const running = runningBroker(brokerFolderOf(this.folder))
    if (!running) throw new Error('no broker')
    return running
  }

  /** The node's own connection, which comes back by itself. */
  async node(): Promise<MqttClient> {
    const { broker } = secretSchema.parse(
      JSON.parse(fs.readFileSync(path.join(this.folder, 'standins', SLIP_TANK, 'secret.json'), 'utf8')),
    )
    const client = mqtt.connect(`mqtt://127.0.0.1:${this.port}`, {
      username: broker.name,
      password: broker.password,
      clientId: 'the-node',
      clean: false,
      reconnectPeriod: 20,
    })
    client.on('error', () => undefined)
    this.ends.push(() => client.endAsync(true))
    await new Promise<void>((r) => client.once('connect', () => r()))
    return client
  }

  async reader(): Promise<MqttClient> {
    const client = await mqtt.connectAsync(`mqtt://127.0.0.1:${this.port}`, {
      username: 'outside',
      password: PASSWORDS.outsidePassword,
    })
    this.ends.push(() => client.endAsync(true))
    return client
  }

  /** Levels in the history, in order of arrival, and when they came; `last` is the one published last. Ends the broker. */
  async history(last: number): Promise<{ number: number; at: Date }[]> {
    const product = await startProduct(this.folder, this.port)
    try {
      // What the broker kept for the product is handed over first, in its order.
      await until(() => product.workshop.get(SLIP_TANK)?.live.values.slevel?.value === last, 20_000).catch(
        () => undefined,
      )
      await product.ingest.buffer.flush()
      await spreadAll(product.db)
      return await product.db.query(
        z.object({ number: z.number(), at: z.date() }),
        "select number, at from readings where signal_id = 'slevel' order by at, number",
      )
    } finally {
      await product.stop()
    }
  }

  async end(): Promise<void> {
    for (const end of this.ends.splice(0).reverse()) await end()
  }
}

/** What a node publishes retained, that the demo does not. */
const LEAVES = ['pump', 'water', 'press', 'health', 'fault', 'td', 'close']

/** Kills the product over and over while a node publishes; what of its acknowledged readings the history has. */
export async function killProduct(house: House, times: number) {
  let end = await house.serve()
  const node = await house.node()
  let cuts = 0
  node.on('close', () => {
    cuts += 1
  })
  const acknowledged: { value: number; at: number }[] = []
  let going = true
  const traffic = (async () => {
    for (let value = 0; going; value++) {
      const at = Date.now()
      await node.publishAsync('vn/slip-tank/level', String(value), { qos: 1 })
      acknowledged.push({ value, at })
      await new Promise((r) => setTimeout(r, 2))
    }
  })()
  const { pid } = house.broker
  for (let kill = 0; kill < times; kill++) {
    await new Promise((r) => setTimeout(r, 300))
    await end('SIGKILL')
    const before = acknowledged.length
    await until(() => acknowledged.length > before + 50, 10_000)
    end = await house.serve()
  }
  going = false
  await traffic
  // Until here: the history is read by a product that ends the broker with it.
  const stayed = house.broker.pid === pid
  const cutsSoFar = cuts
  await end('SIGTERM')
  const rows = await house.history(acknowledged.length - 1)
  const here = new Set(rows.map((r) => r.number))
  return {
    acknowledged: acknowledged.length,
    lost: acknowledged.filter((a) => !here.has(a.value)).length,
    twice: rows.length - here.size,
    /** Farthest any of them is from when it was sent, ms. */
    apartMs: Math.max(...rows.map((r) => Math.abs(r.at.getTime() - (acknowledged[r.number]?.at ?? 0)))),
    cuts: cutsSoFar,
    stayed,
  }
}

/** Kills the broker over and over, the product stopped: what is left of what was acknowledged. */
export async function killBroker(house: House, times: number, start: () => void) {
  await (
    await house.serve()
  )('SIGTERM')
  const kept: Record<string, string> = {}
  const readings: number[] = []
  const node = await house.node()
  for (let kill = 0; kill < times; kill++) {
    for (let i = 0; i < 40; i++) {
      const value = kill * 100 + i
      await node.publishAsync('vn/slip-tank/level', String(value), { qos: 1 })
      readings.push(value)
      const topic = `vn/slip-tank/${LEAVES[i % LEAVES.length]}`
      await node.publishAsync(topic, i % 5 === 4 ? '' : String(value), { qos: 1, retain: true })
      if (i % 5 === 4) delete kept[topic]
      else kept[topic] = String(value)
    }
    const closed = new Promise<void>((r) => node.once('close', () => r()))
    process.kill(house.broker.pid, 'SIGKILL')
    await closed
    const back = new Promise<void>((r) => node.once('connect', () => r()))
    start()
    await back
  }
  const heard: Record<string, string> = {}
  const reader = await house.reader()
  reader.on('message', (topic, payload) => (heard[topic] = payload.toString()))
  await reader.subscribeAsync('vn/slip-tank/+')
  await until(() => Object.keys(kept).every((t) => t in heard), 5000)
  const leaves = Object.entries(heard).filter(([t]) => LEAVES.some((leaf) => t.endsWith(`/${leaf}`)))
  return {
    kept,
    retained: Object.fromEntries(leaves),
    readings,
    stored: (await house.history(readings.at(-1) ?? 0)).map((r) => r.number),
  }
}

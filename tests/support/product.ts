import fs from 'node:fs'
import net from 'node:net'
import os from 'node:os'
import path from 'node:path'
import mqtt, { type MqttClient } from 'mqtt'
import { demo } from '../../src/demo/demoHost'
import { Product, type ProductOptions } from '../../src/server/product'
import { demoNodes } from './demoNodes'

export { demoNodes }

export const PASSWORDS = {
  outsidePassword: 'outside-pass',
  controllerPassword: 'controller-pass',
  standinPassword: 'standin-pass',
}
export const SLIP_TANK = '5f0c2b1e-8a47-4c36-9d52-1b7e6a90c3d1'

export async function freePort(): Promise<number> {
  return new Promise((resolve) => {
    const server = net.createServer().listen(0, '127.0.0.1', () => {
      const address = server.address()
      server.close(() => resolve(typeof address === 'object' && address ? address.port : 0))
    })
  })
}

export function tempFolder(): string {
  return fs.mkdtempSync(path.join(os.tmpdir(), 'vivid-test-'))
}

/** The real product on its own folder and port: database thread, broker, ingest. */
export async function startProduct(
  dataFolder = tempFolder(),
  mqttPort?: number,
  tls: ProductOptions['tls'] = null,
): Promise<Product> {
  return Product.start({
    project: process.cwd(),
    dataFolder,
    host: '127.0.0.1',
    mqttPort: mqttPort ?? (await freePort()),
    tls,
    brokerEnds: true,
    guest: demo(process.cwd(), dataFolder, PASSWORDS, demoNodes.only),
  })
}

export async function login(
  product: Product,
  username: string,
  password: string,
  clientId?: string,
): Promise<MqttClient> {
  return mqtt.connectAsync(`mqtt://127.0.0.1:${product.options.mqttPort}`, {
    username,
    password,
    clientId,
    reconnectPeriod: 0,
    connectTimeout: 5000,
  })
}

export interface Heard {
  topic: string
  text: string
  retain: boolean
  at: number
}

/** Everything an outside reader hears, and a way to wait for something in it. */
export async function listen(product: Product, filter = 'vn/#') {
  const client = await login(product, 'outside', PASSWORDS.outsidePassword)
  const heard: Heard[] = []
  client.on('message', (topic, payload, packet) =>
    heard.push({ topic, text: payload.toString(), retain: packet.retain, at: Date.now() }),
  )
  await client.subscribeAsync(filter, { qos: 1 })
  return {
    heard,
    until: (match: (h: Heard) => boolean, withinMs = 10_000, from = 0) =>
      until(
        () => heard.slice(from).find(match),
        withinMs,
        () =>
          `heard ${heard
            .slice(-8)
            .map((h) => `${h.topic} ${h.text.slice(0, 80)}`)
            .join(' | ')}`,
      ),
    end: () => client.endAsync(true),
  }
}

/** Waits for a value that is not undefined, null or false. */
export async function until<T>(
  probe: () => T | undefined | null | false | Promise<T | undefined | null | false>,
  withinMs: number,
  context: () => string = () => '',
): Promise<T> {
  const end = Date.now() + withinMs
  for (;;) {
    const value = await probe()
    if (value !== undefined && value !== null && value !== false) return value
    if (Date.now() > end) throw new Error(`nothing of the kind within ${withinMs} ms; ${context()}`)
    await new Promise((r) => setTimeout(r, 15))
  }
}

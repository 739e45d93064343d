import mqtt from 'mqtt'
import { workerData } from 'node:worker_threads'
import { z } from 'zod'
import { SimulatedBoard } from './board'

/** How to reach the broker for what a person at the tank would see and do; the board's own login is in its flash. */
export interface ThreadData {
  node: string
  flashDir: string
  deviceDir: string
  shimDir: string
  seed: number
  broker: { url: string; name: string; password: string }
}

const deed = z.union([
  z.strictObject({ press: z.number().min(1).max(5000) }),
  z.strictObject({ cut: z.boolean() }),
  z.strictObject({ contact: z.string(), closed: z.boolean() }),
  z.strictObject({ key: z.string(), press: z.number().min(1).max(5000) }),
  z.strictObject({ loop: z.string(), volts: z.number().min(0).max(5) }),
  z.strictObject({ unplug: z.literal('probe'), for: z.number().min(0).max(600) }),
])

const data = workerData as ThreadData
const STEP_MS = 20

/** Small seeded generator (mulberry32): the same seed gives the same world. */
function seeded(seed: number): () => number {
  let a = seed >>> 0
  return () => {
    a = (a + 0x6d2b79f5) >>> 0
    let t = Math.imul(a ^ (a >>> 15), 1 | a)
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296
  }
}

const board = await SimulatedBoard.start({
  flashDir: data.flashDir, deviceDir: data.deviceDir, shimDir: data.shimDir, random: seeded(data.seed),
  log: (line) => console.error(`${data.node}: ${line}`),
})

const base = `standin/${data.node}`
const world = mqtt.connect(data.broker.url, { username: data.broker.name, password: data.broker.password, clientId: `standin-${data.node}`, reconnectPeriod: 1000 })
world.on('connect', () => world.subscribe(`${base}/do`))
world.on('message', (_topic, payload) => {
  try {
    const what = deed.parse(JSON.parse(payload.toString()))
    if ('contact' in what) board.comings.set(what.contact, what.closed)
    else if ('key' in what) board.comings.press(what.key, what.press / 1000)
    else if ('loop' in what) board.comings.setVolts(what.loop, what.volts)
    else if ('press' in what) board.press(what.press)
    else if ('cut' in what) board.link.setCut(what.cut)
    else {
      board.thermometer.present = false
      setTimeout(() => { board.thermometer.present = true }, what.for * 1000)
    }
  } catch (e) {
    console.error(`${data.node}: not understood: ${payload.toString().slice(0, 80)}: ${String(e).slice(0, 200)}`)
  }
})
world.on('error', (e) => console.error(`${data.node}: world link: ${e.message}`))

setInterval(() => board.step(), STEP_MS)
setInterval(() => {
  if (!board.hasTank) return
  world.publish(`${base}/tape`, JSON.stringify({ levelM: board.tank.tapeM(), airC: Math.round(board.tank.airC * 10) / 10, pump: board.relayOn() }))
}, 1000)

import fs from 'node:fs'
import path from 'node:path'
import mqtt from 'mqtt'
import { parentPort, workerData } from 'node:worker_threads'
import { z } from 'zod'
import { isProgress, SimulatedBoard } from './board'
import { train } from '../world/radioSenders'
import { type Deed, deedSchema } from '../../src/wire/deeds'

/** How to reach the broker for what a person at the tank would see and do; the board's own login is in its flash. */
export interface ThreadData {
  node: string
  flashDir: string
  deviceDir: string
  /** The runtime's text, where `deviceDir` has it precompiled. */
  sourceDir?: string
  shimDir: string
  seed: number
  ticksMs?: number
  /** Nobody comes by and presses or opens anything unasked. */
  deserted?: boolean
  broker: { url: string; name: string; password: string }
}

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

/** Networks in the air: what is in the file beside the boards, looked at again each second. */
const airFile = path.join(data.flashDir, '../air.json')
let air: Record<string, string> | null = null
function listenToAir(): void {
  try {
    air = z.record(z.string(), z.string()).parse(JSON.parse(fs.readFileSync(airFile, 'utf8')))
  } catch {
    air = null
  }
}
listenToAir()

const board = await SimulatedBoard.start({
  flashDir: data.flashDir,
  deviceDir: data.deviceDir,
  sourceDir: data.sourceDir,
  shimDir: data.shimDir,
  random: seeded(data.seed),
  ticksMs: data.ticksMs,
  log: (line) => {
    if (!isProgress(line)) console.error(`${data.node}: ${line}`)
  },
  air: () => air,
  said: (frame) => parentPort?.postMessage(frame),
})
if (data.deserted) board.comings.alone = false

// What is on the air comes from one place for all receivers.
parentPort?.on('message', (lengths: number[]) => board.hear(lengths))

const base = `standin/${data.node}`
const world = mqtt.connect(data.broker.url, {
  username: data.broker.name,
  password: data.broker.password,
  clientId: `standin-${data.node}`,
  reconnectPeriod: 1000,
})
world.on('connect', () => world.subscribe(`${base}/do`))
world.on('message', (_topic, payload) => {
  try {
    const what = deedSchema.parse(JSON.parse(payload.toString()))
    perform(what)
  } catch (e) {
    console.error(`${data.node}: not understood: ${payload.toString().slice(0, 80)}: ${String(e).slice(0, 200)}`)
  }
})
world.on('error', (e) => console.error(`${data.node}: world link: ${e.message}`))

function forATime(seconds: number, on: () => void, off: () => void): void {
  on()
  setTimeout(off, seconds * 1000)
}

function perform(what: Deed): void {
  if ('contact' in what) board.comings.set(what.contact, what.closed)
  else if ('key' in what) board.comings.press(what.key, what.press / 1000)
  else if ('loop' in what) board.comings.setVolts(what.loop, what.volts)
  else if ('press' in what) board.press(what.press, what.slug)
  else if ('cut' in what) board.link.setCut(what.cut)
  else if ('unplug' in what)
    forATime(
      what.for,
      () =>
        board.thermometers.forEach((t) => {
          t.present = false
        }),
      () =>
        board.thermometers.forEach((t) => {
          t.present = true
        }),
    )
  else if ('warm' in what)
    forATime(
      what.for,
      () => board.warmByHand(what.warm, 6),
      () => board.warmByHand(what.warm, 0),
    )
  else if ('power' in what) board.power(what.power === 'sag' ? 'watchdog' : 'power')
  else if ('turn' in what) board.turn(what.turn)
  else if ('send' in what) board.hear(train(what.send, 6, Math.random))
  else if ('fire' in what) board.yard.fire()
  else if ('speed' in what) board.speed = what.speed
  else if ('run' in what) board.python(what.run)
  else
    switch (what.fault) {
      case 'unplugged':
        return forATime(
          what.for,
          () => {
            board.faults.unplugged = true
          },
          () => {
            board.faults.unplugged = false
          },
        )
      case 'garbage':
        return forATime(
          what.for,
          () => {
            board.faults.garbage = true
          },
          () => {
            board.faults.garbage = false
          },
        )
      case 'hangs':
        return forATime(
          what.for,
          () => {
            board.hangs = true
          },
          () => undefined,
        )
      case 'no network':
        return forATime(
          what.for,
          () => {
            board.airUp = false
          },
          () => {
            board.airUp = true
          },
        )
    }
}

setInterval(() => board.step(), STEP_MS)
setInterval(listenToAir, 1000)

/** What is the matter with the board and its world, for the screen that provokes it. */
let told = ''
setInterval(() => {
  const { faults, hangs, airUp, speed, asleep, longestModelledMs } = board
  const active = [
    faults.unplugged && 'unplugged',
    faults.garbage && 'garbage',
    hangs && 'hangs',
    !airUp && 'no network',
    board.link.isCut && 'cut',
  ].filter(Boolean)
  const text = JSON.stringify({ active, speed, asleep, longestStepMs: Math.round(longestModelledMs) })
  if (text === told || !world.connected) return
  told = text
  world.publish(`${base}/board`, text, { retain: true })
}, 500)
/** What the tape showed last: only changes are told. */
let taped = ''
setInterval(() => {
  if (!board.hasTank) return
  const airC = Math.round(board.tank.airC * 10) / 10
  const text = JSON.stringify({ levelM: board.tank.tapeM(), airC, pump: board.relayOn() })
  if (text === taped || !world.connected) return
  taped = text
  world.publish(`${base}/tape`, text, { retain: true })
}, 1000)

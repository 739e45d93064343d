import { createHash } from 'node:crypto'
import fs from 'node:fs'
import path from 'node:path'
import { fileURLToPath } from 'node:url'
import { Worker } from 'node:worker_threads'
import mqtt from 'mqtt'
import {
  CABLE,
  CABLE_CHIPS,
  CABLE_FOLDER,
  type CableDeed,
  cableDeedSchema,
  type CableState,
} from '../../src/wire/deeds'
import { madeImage } from './madeImage'
import type { CableThread, FromCable, ToCable } from './thread'

/**
 * The board at a cable in the demo: one thread at a time, of the class that is plugged in. Where it listens stands in a
 * file beside its flash, with an image that it takes for an interpreter.
 */
export function startCable(bundles: string, project: string, broker: { url: string; password: string }): void {
  const home = path.join(bundles, '..', CABLE_FOLDER)
  fs.mkdirSync(home, { recursive: true, mode: 0o700 })
  let state: CableState = { port: 0, chip: '32-class', trouble: 'none' }
  let thread: Worker | null = null

  const keep = () => {
    fs.writeFileSync(path.join(home, 'state.json.part'), JSON.stringify(state))
    fs.renameSync(path.join(home, 'state.json.part'), path.join(home, 'state.json'))
  }
  const plugIn = (chip: CableState['chip']) => {
    thread?.postMessage({ stop: true } satisfies ToCable)
    state = { ...state, chip, port: 0 }
    const folder = path.join(home, chip)
    fs.mkdirSync(folder, { recursive: true })
    fs.writeFileSync(path.join(folder, 'image.bin'), madeImage(chip, { bytes: 200_000 }))
    const workerData: CableThread = {
      chip,
      folder,
      // Locally administered, the same for a class in every demo.
      hardware: `02${createHash('sha256').update(chip).digest('hex').slice(0, 10)}`,
      trouble: state.trouble,
      shimDir: path.join(project, 'standins/board/shims'),
      sourceDir: path.join(project, 'device'),
      airFile: path.join(bundles, 'air.json'),
    }
    thread = new Worker(path.join(path.dirname(fileURLToPath(import.meta.url)), 'cable-thread.mjs'), { workerData })
    thread.on('message', ({ port }: FromCable) => {
      state = { ...state, port }
      keep()
    })
    thread.on('error', (e) => console.error(`the board at the cable stopped: ${e.message}`))
  }
  const does = (deed: CableDeed) => {
    if ('plugIn' in deed) return plugIn(deed.plugIn)
    if ('trouble' in deed) {
      state = { ...state, trouble: deed.trouble }
      keep()
    }
    thread?.postMessage(deed satisfies ToCable)
  }
  // One that carries a node goes on with it; an empty one is plugged in when somebody asks for it.
  fs.rmSync(path.join(home, 'state.json'), { force: true })
  const carrying = CABLE_CHIPS.find((chip) => fs.existsSync(path.join(home, chip, 'node.json')))
  if (carrying) plugIn(carrying)
  const world = mqtt.connect(broker.url, {
    username: 'standin',
    password: broker.password,
    clientId: `standin-${CABLE}`,
    reconnectPeriod: 1000,
  })
  world.on('connect', () => world.subscribe(`standin/${CABLE}/do`))
  world.on('error', (e) => console.error(`the board at the cable: ${e.message}`))
  world.on('message', (_topic, payload) => {
    const deed = cableDeedSchema.safeParse(JSON.parse(payload.toString()))
    if (deed.success) does(deed.data)
  })
}

import fs from 'node:fs'
import path from 'node:path'
import type { Worker } from 'node:worker_threads'
import mqtt from 'mqtt'
import { AIR, airDeedSchema } from '../../src/wire/deeds'
import { Air, inRoom } from '../world/radioSenders'

const STEP_MS = 50
/** How much of what a board says another one gets. */
const ACROSS_THE_YARD = 0.93

/**
 * The yard’s air: senders that send by themselves or because somebody does something, heard by every board with a receiver
 * as well as its room lets it.
 */
export function startAir(
  bundles: string,
  threads: ReadonlyMap<string, Worker>,
  broker: { url: string; password: string },
): void {
  const air = new Air(Math.random)
  // A board is known by its node’s short name, as its file has it.
  const names = new Map(
    [...threads.keys()].map((node) => {
      const file = JSON.parse(fs.readFileSync(path.join(bundles, node, 'node.json'), 'utf8')) as { node: string }
      return [node, file.node]
    }),
  )
  const client = mqtt.connect(broker.url, {
    username: 'standin',
    password: broker.password,
    clientId: 'standin-air',
    reconnectPeriod: 1000,
  })
  client.on('connect', () => client.subscribe(`standin/${AIR}/do`))
  client.on('error', (e) => console.error(`air: ${e.message}`))
  client.on('message', (_topic, payload) => {
    try {
      const { trigger, which, inS } = airDeedSchema.parse(JSON.parse(payload.toString()))
      if (!air.trigger(trigger, which, inS)) console.error(`air: nobody is called “${trigger}”`)
    } catch (e) {
      console.error(`air: not understood: ${String(e).slice(0, 200)}`)
    }
  })
  // What one of the boards says the others hear, each as well as walls let it.
  for (const [from, thread] of threads)
    thread.on('message', (frame: number[]) => {
      for (const [node, other] of threads)
        if (node !== from) other.postMessage(inRoom(frame, ACROSS_THE_YARD, Math.random))
    })
  setInterval(() => {
    for (const { sender, train } of air.step(STEP_MS / 1000))
      for (const [node, thread] of threads) {
        const share = sender.heard[names.get(node) ?? ''] ?? 0
        if (share > 0) thread.postMessage(inRoom(train, share, Math.random))
      }
  }, STEP_MS)
}

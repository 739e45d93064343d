import { Aedes } from 'aedes'
import { type ChildProcess, fork } from 'node:child_process'
import { once } from 'node:events'
import net from 'node:net'
import path from 'node:path'
import mqtt from 'mqtt'

// The library's broker as it comes, in a process, and one subscriber to everything in another: what the product's
// broker and storing are measured against. `broker PORT` and `subscriber PORT QOS` are the two.
const [, , role, port, qos] = process.argv

if (role === 'broker') {
  const aedes = await Aedes.createBroker()
  net.createServer(aedes.handle).listen(Number(port), '127.0.0.1', () => process.send?.('ready'))
}
if (role === 'subscriber') {
  let heard = 0
  const client = await mqtt.connectAsync(`mqtt://127.0.0.1:${port}`)
  client.on('message', () => {
    heard += 1
  })
  await client.subscribeAsync('#', { qos: qos === '1' ? 1 : 0 })
  process.on('message', () => process.send?.(heard))
  process.send?.('ready')
}

export interface Peer {
  /** Messages the subscriber has heard so far. */
  heard(): Promise<number>
  end(): void
}

/** Starts both. */
export async function startPeer(onPort: number, atQos: 0 | 1): Promise<Peer> {
  const start = async (...args: string[]): Promise<ChildProcess> => {
    const child = fork(path.resolve('build/peer-broker.mjs'), args)
    await once(child, 'message')
    return child
  }
  const broker = await start('broker', String(onPort))
  const subscriber = await start('subscriber', String(onPort), String(atQos))
  return {
    heard: async () => {
      subscriber.send('how many?')
      const [n] = (await once(subscriber, 'message')) as [number]
      return n
    },
    end: () => {
      subscriber.kill('SIGKILL')
      broker.kill('SIGKILL')
    },
  }
}

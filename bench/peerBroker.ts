import { type ChildProcess, fork } from 'node:child_process'
import { once } from 'node:events'
import path from 'node:path'

export interface Peer {
  /** Messages the subscriber has heard so far. */
  heard(): Promise<number>
  end(): void
}

/** Starts the library's broker as it comes and one subscriber to everything, each a process. */
export async function startPeer(onPort: number, atQos: 0 | 1): Promise<Peer> {
  const start = async (...args: string[]): Promise<ChildProcess> => {
    const child = fork(path.resolve('build/peer-process.mjs'), args)
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

import { type ChildProcess, fork } from 'node:child_process'
import { once } from 'node:events'
import fs from 'node:fs'
import path from 'node:path'

export interface Peer {
  /** Broker and subscriber. */
  processes: readonly number[]
  /** Messages the subscriber has heard so far. */
  heard(): Promise<number>
  end(): void
}

async function start(...args: string[]): Promise<ChildProcess> {
  const child = fork(path.resolve('build/peer-process.mjs'), args)
  await once(child, 'message')
  return child
}

export interface Publishers {
  /** Kept when the last of so many messages has been taken; values count on from `from`. */
  publish(from: number, messages: number): Promise<void>
  end(): void
}

/** So many connections to the broker at this port, in a process of their own, by logins `bench-0`, `bench-1` …. */
export async function startPublishers(port: number, qos: 0 | 1, n: number, password: string): Promise<Publishers> {
  const child = await start('publishers', String(port), String(qos), String(n), password)
  return {
    publish: async (from, messages) => {
      const done = once(child, 'message')
      child.send({ from, messages })
      await done
    },
    end: () => {
      child.kill('SIGKILL')
    },
  }
}

/** Starts the library's broker as it comes and one subscriber to everything, each a process. */
export async function startPeer(onPort: number, atQos: 0 | 1): Promise<Peer> {
  const broker = await start('broker', String(onPort))
  const subscriber = await start('subscriber', String(onPort), String(atQos))
  return {
    processes: [broker.pid ?? 0, subscriber.pid ?? 0],
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

/** Time of the processor a process has taken so far, ms; Linux counts it in hundredths of a second. */
export function processorMs(pid: number): number {
  const [user = 0, system = 0] = fs
    .readFileSync(`/proc/${pid}/stat`, 'utf8')
    .replace(/^.*\) /, '')
    .split(' ')
    .slice(11, 13)
    .map(Number)
  return (user + system) * 10
}

/** How many run at once, wait in all, and wait in one lane. */
export interface TurnLimits {
  running: number
  waiting: number
  alike: number
}

interface Asked {
  lane: string
  gone: () => boolean
  run: () => Promise<void>
  drop: () => void
}

/**
 * What costs time and anybody may ask for, such as checks of passwords and secure handshakes: whoever floods it must
 * not keep others out. Each lane has its turn after the other lanes; a lane that is full refuses, and so does the
 * whole. What is asked for by a connection that has ended meanwhile is not done.
 */
export class Turns {
  constructor(private readonly limits: TurnLimits) {}

  private lanes = new Map<string, Asked[]>()
  private waiting = 0
  private running = 0

  /** The result of `work`, or null when there is no room for it or nobody waits for it any more. */
  ask<T>(lane: string, gone: () => boolean, work: () => Promise<T>): Promise<T | null> {
    const queue = this.lanes.get(lane) ?? []
    const { waiting, alike } = this.limits
    if (queue.length >= alike || (this.waiting >= waiting && !this.makeRoom(queue.length))) return Promise.resolve(null)
    return new Promise((resolve, reject) => {
      queue.push({ lane, gone, run: () => work().then(resolve, reject), drop: () => resolve(null) })
      this.lanes.set(lane, queue)
      this.waiting += 1
      this.next()
    })
  }

  /** The last of the longest lane gives way to one of a shorter lane. */
  private makeRoom(than: number): boolean {
    const longest = [...this.lanes.values()].reduce<Asked[]>((a, b) => (b.length > a.length ? b : a), [])
    if (longest.length <= than + 1) return false
    longest.pop()?.drop()
    this.waiting -= 1
    return true
  }

  private next(): void {
    while (this.running < this.limits.running) {
      const asked = this.take()
      if (!asked) return
      if (asked.gone()) {
        asked.drop()
        continue
      }
      this.running += 1
      void asked.run().finally(() => {
        this.running -= 1
        this.next()
      })
    }
  }

  /** The first of the lane whose turn it is, which then goes to the end. */
  private take(): Asked | undefined {
    const [first] = this.lanes
    if (!first) return undefined
    const [lane, queue] = first
    this.lanes.delete(lane)
    const asked = queue.shift()
    this.waiting -= 1
    if (queue.length > 0) this.lanes.set(lane, queue)
    return asked
  }
}

import { Worker } from 'node:worker_threads'
import type { CatalogItems } from '../../core/catalog/catalog'
import type { Design } from '../../core/model/design'
import { WORK, type WorkArguments, type WorkName, type WorkResult } from './work'

/** Designs up to this size are derived within a frame, here; larger ones beside the server. */
const SMALL = 60
/** Longest a piece of work may take, ms. */
const LONGEST_MS = 30_000

export class TooMuchWork extends Error {}

interface Waiting {
  done: (result: unknown) => void
  failed: (e: Error) => void
  timer: NodeJS.Timeout
}

/**
 * What follows from designs, worked out without holding up the server. The thread is there once the first large design
 * is.
 */
export class Derived {
  private worker: Worker | null = null
  private waiting = new Map<number, Waiting>()
  private last = 0

  constructor(
    private readonly threadFile: string,
    private readonly items: () => CatalogItems,
  ) {}

  /** Throws TooMuchWork when it takes longer than half a minute. */
  async work<N extends WorkName>(name: N, design: Design, ...given: WorkArguments<N>): Promise<WorkResult<N>> {
    const work = WORK[name] as (...given: unknown[]) => WorkResult<N>
    if (Object.keys(design.parts).length + Object.keys(design.signals).length <= SMALL)
      return work(this.items(), design, ...given)
    return (await this.beside(name, [this.items(), design, ...given])) as WorkResult<N>
  }

  private beside(name: WorkName, given: unknown[]): Promise<unknown> {
    const id = ++this.last
    return new Promise((done, failed) => {
      const timer = setTimeout(
        () =>
          this.end(
            new TooMuchWork(
              `the design is too large: this took longer than ${LONGEST_MS / 1000} s and was stopped; nothing was changed`,
            ),
          ),
        LONGEST_MS,
      )
      this.waiting.set(id, { done, failed, timer })
      this.thread().postMessage({ id, name, given })
    })
  }

  private thread(): Worker {
    if (this.worker) return this.worker
    const worker = new Worker(this.threadFile)
    worker.unref()
    worker.on('message', (m: { id: number; ok: boolean; result: unknown; reason: string }) => {
      const asked = this.waiting.get(m.id)
      this.waiting.delete(m.id)
      clearTimeout(asked?.timer)
      if (m.ok) asked?.done(m.result)
      else asked?.failed(new Error(m.reason))
    })
    worker.on('error', (e) => this.end(e))
    this.worker = worker
    return worker
  }

  /** Ends the thread, and what waits for it; the next piece of work begins another. */
  private end(why: Error): void {
    void this.worker?.terminate()
    this.worker = null
    for (const { failed, timer } of this.waiting.values()) {
      clearTimeout(timer)
      failed(why)
    }
    this.waiting.clear()
  }

  stop(): void {
    this.end(new Error('the product is stopping'))
  }
}

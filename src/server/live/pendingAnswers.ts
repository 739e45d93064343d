import type { Done } from '../../core/publish/payload'

interface Pending {
  then: (done: Done) => void
  past: readonly Done['result'][]
}

/** Commands that wait for their answer, by the id they were sent under. */
export class PendingAnswers {
  private waiting = new Map<string, Pending>()

  /**
   * The answer to the command with this id, or null when none comes in time. Results named in `past` are on the way to
   * it.
   */
  to(id: string, withinMs: number, past: readonly Done['result'][] = []): Promise<Done | null> {
    return new Promise((resolve) => {
      const timer = setTimeout(() => {
        this.waiting.delete(id)
        resolve(null)
      }, withinMs)
      this.waiting.set(id, {
        past,
        then: (done) => {
          clearTimeout(timer)
          this.waiting.delete(id)
          resolve(done)
        },
      })
    })
  }

  /** Gives an answer to whoever waits for it; false when nobody does any more. */
  take(done: Done): boolean {
    const pending = done.id === null ? undefined : this.waiting.get(done.id)
    if (!pending) return false
    if (!pending.past.includes(done.result)) pending.then(done)
    return true
  }
}

import { type Heard, HeardSoFar } from '../core/proof/heard'

/** What is heard while a proof goes on, and waiting in it. */
export class Room {
  private readonly waiting = new Set<(message: Heard) => void>()
  private frozen = false
  private why: string | null = null
  private readonly kept = new Map<string, string>()

  constructor(
    public heard: HeardSoFar,
    private readonly stop?: AbortSignal,
  ) {}

  readonly take = (message: Heard): void => {
    if (!this.frozen) this.heard.take(message)
    if (message.retain) this.kept.set(message.topic, message.text)
    for (const hear of [...this.waiting]) hear(message)
  }

  readonly lose = (why: string): void => {
    this.why = why
  }

  /** From now on it is listened to, beginning with what the broker keeps. */
  beginAll(kept: ReadonlyMap<string, string>): void {
    const atS = performance.now() / 1000
    this.heard = new HeardSoFar(atS)
    for (const [topic, text] of kept) this.heard.take({ topic, text, retain: true, atS })
  }

  freeze(): HeardSoFar {
    this.frozen = true
    this.heard.endS = performance.now() / 1000
    return this.heard
  }

  get stopped(): boolean {
    return this.stop?.aborted ?? false
  }

  /** The last text on a topic, live or kept. */
  last(topic: string): string | undefined {
    const { live, keptAtStart } = this.heard.of(topic)
    return live.at(-1)?.text ?? keptAtStart
  }

  async listen(seconds: number, say: (share: number) => void): Promise<void> {
    const began = performance.now()
    for (;;) {
      if (this.why !== null) throw new Error(this.why)
      const share = (performance.now() - began) / (seconds * 1000)
      say(Math.min(1, share))
      if (share >= 1 || this.stopped) return
      await new Promise((r) => setTimeout(r, Math.min(250, seconds * 100)))
    }
  }

  /** First live message from now on for which `is` says yes, or null `ms` after `act` is done. */
  async next(is: (message: Heard) => boolean, ms: number, act?: () => Promise<unknown>): Promise<Heard | null> {
    let done: (message: Heard | null) => void = () => undefined
    const first = new Promise<Heard | null>((resolve) => {
      done = resolve
    })
    const hear = (message: Heard) => {
      if (!message.retain && is(message)) done(message)
    }
    this.waiting.add(hear)
    let timer: NodeJS.Timeout | undefined
    const halt = () => done(null)
    this.stop?.addEventListener('abort', halt)
    try {
      await act?.()
      timer = setTimeout(() => done(null), ms)
      return await first
    } finally {
      clearTimeout(timer)
      this.waiting.delete(hear)
      this.stop?.removeEventListener('abort', halt)
    }
  }
}

import type { Edge, ModelledPart, Surrounds } from './modelledPart'

/** Contacts bounce for six milliseconds on their way down and up, and stay where they are for some 300 µs each time. */
const BOUNCE_US = 6000
const STAYS_US = 300

/** A key between a pin and a rail. */
export class PushButton implements ModelledPart {
  private fromUs = -1
  private untilUs = -1
  private forUs = 0
  private felt = true
  private released = true
  private bounce = { slot: -1, closed: false }

  constructor(
    private readonly around: Surrounds,
    readonly slug: string,
    private readonly pin: number,
    private readonly down: 0 | 1,
  ) {}

  press(ms: number): void {
    this.forUs = ms * 1000
    this.begins()
    this.felt = false
  }

  private begins(): void {
    this.fromUs = this.around.nowUs()
    this.untilUs = this.fromUs + this.forUs
    this.released = false
  }

  /**
   * Its movements as the pin of a running board feels them: each begins with a step, so that its bounce is still there to
   * be looked at.
   */
  step(_: number, edge: Edge): void {
    const now = this.around.nowUs()
    if (!this.felt) {
      this.felt = true
      this.begins()
      edge(this.pin, this.down, now)
    } else if (!this.released && now >= this.untilUs) {
      this.untilUs = now
      this.released = true
      edge(this.pin, this.down === 0 ? 1 : 0, now)
    }
  }

  level(pin: number): 0 | 1 | null {
    if (pin !== this.pin) return null
    const up = this.down === 0 ? 1 : 0
    return this.closed() || this.around.comings.held(this.slug) ? this.down : up
  }

  private closed(): boolean {
    const now = this.around.nowUs()
    const edge = Math.min(Math.abs(now - this.fromUs), Math.abs(now - this.untilUs))
    return edge < BOUNCE_US
      ? this.bouncing(now)
      : !this.released && now >= this.fromUs && (this.felt || now < this.untilUs)
  }

  private bouncing(now: number): boolean {
    const slot = Math.floor(now / STAYS_US)
    if (slot !== this.bounce.slot) this.bounce = { slot, closed: this.around.random() < 0.5 }
    return this.bounce.closed
  }
}

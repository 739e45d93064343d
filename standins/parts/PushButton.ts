import type { ModelledPart, Surrounds } from './modelledPart'

/** Contacts bounce for six milliseconds on their way down and up. */
const BOUNCE_US = 6000

/** A key between a pin and a rail. */
export class PushButton implements ModelledPart {
  private fromUs = -1
  private untilUs = -1

  constructor(
    private readonly around: Surrounds,
    readonly slug: string,
    private readonly pin: number,
    private readonly down: 0 | 1,
  ) {}

  press(ms: number): void {
    this.fromUs = this.around.nowUs()
    this.untilUs = this.fromUs + ms * 1000
  }

  level(pin: number): 0 | 1 | null {
    if (pin !== this.pin) return null
    const up = this.down === 0 ? 1 : 0
    return this.closed() || this.around.comings.held(this.slug) ? this.down : up
  }

  private closed(): boolean {
    const now = this.around.nowUs()
    const edge = Math.min(Math.abs(now - this.fromUs), Math.abs(now - this.untilUs))
    return edge < BOUNCE_US ? this.around.random() < 0.5 : now >= this.fromUs && now < this.untilUs
  }
}

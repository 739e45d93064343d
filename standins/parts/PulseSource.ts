import type { Edge, ModelledPart, Surrounds } from './modelledPart'

/** When the contact of a meter bounces after it has closed, µs. */
const BOUNCES_US = [180, 520]

/** A meter that closes a contact for every unit that has gone through it. */
export class PulseSource implements ModelledPart {
  private due = 0

  constructor(
    private readonly around: Surrounds,
    private readonly slug: string,
    private readonly pin: number,
  ) {}

  /** Spread over the time since the last step, each with the bounce of its contact. */
  step(dtS: number, edge: Edge): void {
    const { comings, nowUs } = this.around
    this.due += dtS * comings.pulsesHz(this.slug)
    const n = Math.floor(this.due)
    this.due %= 1
    for (let i = 0; i < n; i++) {
      const at = nowUs() - (dtS * 1e6 * (n - i - 1)) / n
      for (const us of comings.bounces ? [0, ...BOUNCES_US] : [0]) edge(this.pin, 0, at + us)
    }
  }
}

import type { ModelledPart, Surrounds } from './modelledPart'

/** Keys that pull one pin to voltages of their own. */
export class KeyLadder implements ModelledPart {
  readonly keys: { slug: string; share: number }[] = []

  constructor(
    private readonly around: Surrounds,
    readonly pin: number,
  ) {}

  share(pin: number): number | null {
    if (pin !== this.pin) return null
    const held = this.keys.find((k) => this.around.comings.held(k.slug))
    return (held?.share ?? 1) + 0.002 * (this.around.random() - 0.5)
  }
}

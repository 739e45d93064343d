import type { ModelledPart, Surrounds } from './modelledPart'

/** A contact to ground that somebody, or a door, closes; open it leaves the pin alone. */
export class ReedContact implements ModelledPart {
  constructor(
    private readonly around: Surrounds,
    private readonly slug: string,
    private readonly pin: number,
  ) {}

  level(pin: number): 0 | null {
    return pin === this.pin && this.around.comings.closed(this.slug) ? 0 : null
  }
}

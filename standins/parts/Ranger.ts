import type { ModelledPart, Surrounds } from './modelledPart'

/** Hangs over the tank: an echo after the way down and back, as long as it has been asked and is plugged in. */
export class Ranger implements ModelledPart {
  constructor(
    private readonly around: Surrounds,
    private readonly pins: { trig: number; echo: number },
  ) {}

  echoUs(pin: number): number | null {
    const asked = pin === this.pins.echo && this.around.driven(this.pins.trig) !== null
    return asked && !this.around.unplugged() ? Math.round(this.around.tank.echoS() * 1e6) : null
  }
}

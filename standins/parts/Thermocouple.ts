import type { ModelledPart, Surrounds } from './modelledPart'

/** Steps of a quarter kelvin; the kiln’s shell is a twentieth of what is in it here. */
const PER_KELVIN = 20 * 4
/** All ones: nothing answers. */
const NOTHING = 0xffff

/** Converter of a thermocouple: sixteen bits, clocked out from the moment it is chosen. */
export class Thermocouple implements ModelledPart {
  private bits = 0
  private at = 0

  constructor(
    private readonly around: Surrounds,
    private readonly pins: { sck: number; cs: number; miso: number },
  ) {}

  wrote(pin: number, level: 0 | 1, before: 0 | 1): void {
    if (pin === this.pins.cs && level === 0) {
      const { yard } = this.around
      this.bits = this.around.unplugged() ? NOTHING : (Math.round(yard.kilnRoomC * PER_KELVIN) & 0xfff) << 3
      this.at = 0
    }
    if (pin === this.pins.sck && before === 1 && level === 0) this.at += 1
  }

  level(pin: number): 0 | 1 | null {
    if (pin !== this.pins.miso) return null
    return (this.bits >> (15 - this.at)) & 1 ? 1 : 0
  }
}

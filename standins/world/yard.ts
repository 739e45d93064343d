import type { Climate } from './i2c'

/** Air, warmth and light of the yard's rooms. Times s, temperatures °C, humidity %, pressure Pa. */
export class Yard {
  private timeS = 0
  private kiln = 19
  private cupboard = 92
  /** Seconds left of a firing; one begins now and then. */
  private firingS = 0

  constructor(private readonly random: () => number) {}

  step(dtS: number): void {
    this.timeS += dtS
    if (this.firingS <= 0 && this.random() < dtS / 1800) this.firingS = 900
    this.firingS = Math.max(0, this.firingS - dtS)
    // A firing warms the kiln room towards 41 °C; the rest of the time it falls back to 19 °C. Both take about ten
    // minutes.
    this.kiln += ((this.firingS > 0 ? 41 : 19) - this.kiln) * Math.min(1, dtS / 600)
    // The cupboard dries slowly and is wetted when it falls below 84 %.
    this.cupboard -= dtS * 0.0012
    if (this.cupboard < 84) this.cupboard = 95
  }

  get kilnRoomC(): number {
    return this.kiln
  }

  fire(): void {
    this.firingS = 900
  }

  /** Shelf 0 is the upper one: a little warmer and drier. */
  cupboardAt(shelf: number): Climate {
    const wave = Math.sin(this.timeS / 700 + shelf)
    return {
      temperatureC: 16.4 - 0.7 * shelf + 0.2 * wave,
      humidity: Math.min(99, this.cupboard + 2.5 * shelf - 0.4 * wave),
      pressurePa: 100_900 + 120 * Math.sin(this.timeS / 5000),
    }
  }

  get storeLx(): number {
    return 180 + 120 * Math.sin(this.timeS / 400) + 8 * this.random()
  }
}

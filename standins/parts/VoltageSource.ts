import type { ModelledPart, Surrounds } from './modelledPart'

const MAINS_HZ = 50
/** A thermistor in the glaze store, behind its resistor. */
const NTC_V = 1.9

/** A cell nobody has said anything of, V. */
const FRESH_V = 3.9

/** Anything that makes a voltage at an analog pin: a loop, a thermistor, something that swings with the mains. */
export class VoltageSource implements ModelledPart {
  constructor(
    private readonly around: Surrounds,
    private readonly at: { pin: number; slug: string; fullV: number; kind: 'loop' | 'ntc' | 'swing' | 'cell' },
  ) {}

  /** With the noise of a real converter. */
  share(pin: number): number | null {
    if (pin !== this.at.pin) return null
    return (this.volts() + 0.004 * (this.around.random() - 0.5)) / this.at.fullV
  }

  private volts(): number {
    switch (this.at.kind) {
      case 'swing':
        return 1.65 + 0.2 * Math.sin((this.around.nowUs() / 1e6) * 2 * Math.PI * MAINS_HZ)
      case 'ntc':
        return NTC_V
      case 'cell':
        return (this.around.cellV() ?? FRESH_V) / 2
      case 'loop':
        return this.around.comings.volts(this.at.slug)
    }
  }
}

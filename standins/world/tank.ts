/** The slip tank and what hangs on its node. Lengths m, times s, temperatures °C. */
export class Tank {
  /** True height of the slip over the tank's floor. */
  levelM = 0.412
  pumpOn = false
  private timeS = 0
  private pouringS = 0
  /** The ranger hangs 8 mm higher than the design says, and the air is colder than its setting: a tape finds both. */
  static readonly TRUE_MOUNT_M = 0.908
  static readonly FULL_M = 0.82

  constructor(private readonly random: () => number) {}

  get airC(): number {
    return 11 + 1.5 * Math.sin(this.timeS / 900)
  }

  get waterC(): number {
    return 14.2 + 0.4 * Math.sin(this.timeS / 600)
  }

  /**
   * The studio draws slip all the time; the pump fills eight millimetres a second; at low level somebody pours a batch
   * in.
   */
  step(dtS: number): void {
    this.timeS += dtS
    if (this.levelM < 0.15 && this.pouringS <= 0) this.pouringS = 40
    const pouring = this.pouringS > 0 ? 0.009 : 0
    this.pouringS = Math.max(0, this.pouringS - dtS)
    this.levelM += dtS * ((this.pumpOn ? 0.008 : 0) + pouring - 0.0004)
    this.levelM = Math.min(Tank.FULL_M, Math.max(0, this.levelM))
  }

  /**
   * Length of the ranger's echo, s: there and back at the speed of sound in this air, with half a millimetre of noise.
   */
  echoS(): number {
    const distanceM = Tank.TRUE_MOUNT_M - this.levelM + 0.0005 * gauss(this.random)
    return (2 * distanceM) / (331.3 * Math.sqrt(1 + this.airC / 273.15))
  }

  /** What a tape measure at the tank shows, to the millimetre. */
  tapeM(): number {
    return Math.round(this.levelM * 1000) / 1000
  }
}

function gauss(random: () => number): number {
  return Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random())
}

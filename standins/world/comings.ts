/**
 * Comings and goings of a yard: doors, flaps, presses, loops. Seconds throughout; the same random source gives the same
 * day.
 */
export class Comings {
  private contacts = new Map<string, { closed: boolean; leftS: number }>()
  private keys = new Map<string, number>()
  private loops = new Map<string, { volts: number; leftS: number }>()
  private pulses = new Map<string, number>()
  /** False while somebody sets things by hand. */
  alone = true
  /** Contacts of pulse counters bounce. */
  bounces = true

  constructor(private readonly random: () => number) {}

  step(dtS: number): void {
    for (const [slug, left] of this.keys) this.keys.set(slug, Math.max(0, left - dtS))
    if (!this.alone) return
    for (const c of this.contacts.values()) {
      c.leftS -= dtS
      if (c.leftS > 0) continue
      c.closed = !c.closed
      // Doors stay closed most of the time.
      c.leftS = c.closed ? 20 + 60 * this.random() : 4 + 10 * this.random()
    }
    for (const l of this.loops.values()) {
      l.leftS -= dtS
      if (l.leftS > 0) continue
      const openedV = this.random() < 0.8 ? 0.02 : 3.25
      l.volts = l.volts > 1 && l.volts < 2.5 && this.random() < 0.5 ? openedV : LOOP_CLOSED_V
      l.leftS = 8 + 40 * this.random()
    }
    for (const slug of this.keys.keys()) if (this.random() < dtS / 90) this.keys.set(slug, 0.15)
  }

  closed(slug: string): boolean {
    const known = this.contacts.get(slug) ?? { closed: true, leftS: 10 + 40 * this.random() }
    this.contacts.set(slug, known)
    return known.closed
  }

  held(slug: string): boolean {
    const left = this.keys.get(slug)
    if (left === undefined) this.keys.set(slug, 0)
    return (left ?? 0) > 0
  }

  /** Voltage of a loop, V: half the supply while it is whole. */
  volts(slug: string): number {
    const known = this.loops.get(slug) ?? { volts: LOOP_CLOSED_V, leftS: 10 + 30 * this.random() }
    this.loops.set(slug, known)
    return known.volts
  }

  /** Pulses a second of a meter: it runs for a while, then stands. */
  pulsesHz(slug: string): number {
    return this.pulses.get(slug) ?? 3
  }

  setPulses(slug: string, hz: number): void {
    this.pulses.set(slug, hz)
  }

  set(slug: string, closed: boolean): void {
    this.contacts.set(slug, { closed, leftS: 1e9 })
  }

  setVolts(slug: string, volts: number): void {
    this.loops.set(slug, { volts, leftS: 1e9 })
  }

  press(slug: string, forS: number): void {
    this.keys.set(slug, forS)
  }
}

const LOOP_CLOSED_V = 1.63

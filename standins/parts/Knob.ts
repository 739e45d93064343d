import type { Edge, ModelledPart, Surrounds } from './modelledPart'

/** Positions of a knob's two contacts, one click apart in four edges. */
const QUARTERS = [
  [1, 1],
  [0, 1],
  [0, 0],
  [1, 0],
] as const
const EDGES_A_CLICK = 4

/** A knob that clicks, with two contacts. */
export class Knob implements ModelledPart {
  private quarter = 0
  private due: number[] = []

  constructor(
    private readonly around: Surrounds,
    private readonly pins: { a: number; b: number },
  ) {}

  turn(clicks: number): void {
    for (let i = 0; i < Math.abs(clicks) * EDGES_A_CLICK; i++) this.due.push(Math.sign(clicks))
  }

  level(pin: number): 0 | 1 | null {
    const { a, b } = this.pins
    if (pin !== a && pin !== b) return null
    return this.contacts()[pin === a ? 0 : 1]
  }

  step(_dtS: number, edge: Edge): void {
    for (const way of this.due.splice(0)) {
      const before = this.contacts()
      this.quarter += way
      const now = this.contacts()
      const [pin, level] = before[0] === now[0] ? [this.pins.b, now[1]] : [this.pins.a, now[0]]
      edge(pin, level, this.around.nowUs())
    }
  }

  private contacts(): readonly [0 | 1, 0 | 1] {
    return QUARTERS[this.quarter & 3] ?? [1, 1]
  }
}

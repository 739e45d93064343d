import { z } from 'zod'
import { voltageAt } from '../../src/core/energy/chemistries'
import type { Cycle } from '../../src/core/energy/cycle'
import { triangular } from '../../src/core/energy/spread'
import { MONTH_H } from '../../src/core/units/hours'

/** A cell as it lies in the holder: its curve, what it holds, and what really flows, drawn once and told to nobody. */
export const cellSchema = z.strictObject({
  curve: z.array(z.tuple([z.number(), z.number()])),
  series: z.int().min(1),
  capacityAh: z.number().positive(),
  leftAh: z.number(),
  asleepA: z.number(),
  awakeA: z.number(),
  /** Charge of one start, Ah: interpreter and files, which take a board time and the stand-in none. */
  startAh: z.number(),
  selfA: z.number(),
})
export type CellState = z.infer<typeof cellSchema>

/** Draws what the ranges of the design leave open. */
export function drawnCell(cycle: Cycle, random: () => number, left = 1): CellState {
  const drawn = (id: string) => {
    const input = cycle.inputs.find((i) => i.id === id)
    return input ? triangular(input.value, random()) : 0
  }
  const capacityAh = drawn('capacityAh')
  const restA = drawn('partsRestA')
  return {
    curve: cycle.cell.facts.curve.map(([share, volts]) => [share, volts]),
    series: cycle.cell.series,
    capacityAh,
    leftAh: capacityAh * left,
    asleepA: drawn('asleepA') + restA,
    awakeA: drawn('radioA') + restA,
    startAh: ((drawn('interpreterS') + drawn('filesS')) * (drawn('cpuA') + restA)) / 3600,
    selfA: (drawn('selfShare') * capacityAh) / MONTH_H,
  }
}

/** A cell that empties by what its board does. */
export class StandInCell {
  /** All that has flowed, Ah. */
  spentAh = 0

  constructor(readonly state: CellState) {}

  starts(): void {
    this.take(this.state.startAh)
  }

  passes(seconds: number, asleep: boolean): void {
    this.take((((asleep ? this.state.asleepA : this.state.awakeA) + this.state.selfA) * seconds) / 3600)
  }

  /** V of the pack at rest. */
  volts(): number {
    return voltageAt(this.state.curve, Math.max(0, this.state.leftAh / this.state.capacityAh)) * this.state.series
  }

  private take(ah: number): void {
    this.state.leftAh -= ah
    this.spentAh += ah
  }
}

import type { ModelledPart, Surrounds } from './modelledPart'

/** A held key joins its row to its column: low when the row is pulled. */
export class MatrixKey implements ModelledPart {
  constructor(
    private readonly around: Surrounds,
    private readonly slug: string,
    private readonly pins: { row: number; column: number },
  ) {}

  level(pin: number): 0 | null {
    const { row, column } = this.pins
    return pin === column && this.around.comings.held(this.slug) && this.around.pulledLow(row) ? 0 : null
  }
}

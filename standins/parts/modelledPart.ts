import type { Comings } from '../world/comings'
import type { Tank } from '../world/tank'
import type { Yard } from '../world/yard'

/** What a part has around it: the board's clock and pins, and the world it measures. */
export interface Surrounds {
  nowUs: () => number
  /** What feeds the board, V; null where nothing empties. */
  cellV: () => number | null
  /** Level of a pin the board drives, or null where it does not. */
  driven: (pin: number) => 0 | 1 | null
  /** The board holds a pin low, as an output or an open drain. */
  pulledLow: (pin: number) => boolean
  /** Somebody has pulled its plug. */
  unplugged: () => boolean
  random: () => number
  comings: Comings
  tank: Tank
  yard: Yard
}

export type Edge = (pin: number, level: 0 | 1, us: number) => void

/** A part as the board feels it at its pins. What it leaves out it does not do. */
export interface ModelledPart {
  /** Level it gives a pin; null leaves the pin to others. */
  level?: (pin: number) => 0 | 1 | null
  /** The board has changed the level of a pin. */
  wrote?: (pin: number, level: 0 | 1, before: 0 | 1) => void
  /** Share of full scale at a pin of the converter, 0 to 1; null where it is not there. */
  share?: (pin: number) => number | null
  /** Time in which an echo comes back at a pin, µs; null where none is its own. */
  echoUs?: (pin: number) => number | null
  /** Time goes by; edges that fall into it are told. */
  step?: (dtS: number, edge: Edge) => void
}

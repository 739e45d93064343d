import type { Board } from './board'

/** The smallest board has no memory for a receiver and what understands its codes: it passes raw frames on, and no more. */
export const carriesSenders = (board: Board): boolean => board.interpreter.chip !== '8266-class'

/** Its runtime has what says codes on the air. */
export const saysCodes = (board: Board): boolean => board.interpreter.chip !== '8266-class'

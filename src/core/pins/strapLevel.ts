import type { Board, BoardPin } from '../catalog/board'
import type { LineTerminal } from '../catalog/part'
import { ohms, volts } from '../units/format'

/**
 * The first state of a part that fights the level a pin must have at every start, in words, or null when all agree.
 * The strap's resistance and the part's form a divider: a level above 0.75 VDD (below 0.25 VDD) still counts.
 */
export function strapConflict(board: Board, pin: BoardPin, terminal: LineTerminal): string | null {
  const strap = pin.strap
  if (!strap || strap.when !== 'every start' || strap.level === 'any') return null
  const vdd = board.logicV
  const outside = terminal.outsidePull ? [{ name: 'waiting', level: terminal.outsidePull.level, ohm: terminal.outsidePull.ohm }] : []
  for (const state of [...terminal.states, ...outside]) {
    if (state.level === 'open' || state.level === strap.level) continue
    const partShare = strap.ohm / (strap.ohm + state.ohm)
    const reached = state.level === 'high' ? vdd * partShare : vdd * (1 - partShare)
    const holds = strap.level === 'high' ? reached >= board.input.highRatio * vdd : reached <= board.input.lowRatio * vdd
    if (!holds) {
      return `must be ${strap.level} at reset, and “${state.name}” pulls it ${state.level} through ${ohms(state.ohm)}: ${volts(reached)} against the strap's ${ohms(strap.ohm)}`
    }
  }
  return null
}

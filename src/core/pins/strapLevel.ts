import type { Board, BoardPin } from '../catalog/board'
import { ohms, volts } from '../units/format'
import type { PlanLine } from '../lines/lines'

/** A way a part can hold a line while the chip starts. */
export interface HeldState {
  name: string
  level: 'high' | 'low' | 'open'
  ohm: number
}

/** A part whose output is not fed pulls its line low through its own protection, about this hard, ohm. */
const UNPOWERED_OHM = 1000

/**
 * Every state of everything attached to a line: each part's own, the resistors it asks for or the design has added, and
 * a part fed from elsewhere that is off.
 */
export function heldStates(board: Board, line: PlanLine): HeldState[] {
  const own = line.members.flatMap(({ terminal, part }) => {
    const from = terminal.output?.kind === 'push-pull' ? part.feeds[terminal.output.from] : undefined
    const elsewhere = from !== undefined && !board.rails.some((r) => r.id === from)
    return [
      ...terminal.states,
      ...(elsewhere ? [{ name: 'without its supply', level: 'low' as const, ohm: UNPOWERED_OHM }] : []),
    ]
  })
  const asked = line.members.flatMap(({ terminal: t }) =>
    t.outsidePull ? [{ name: 'waiting', level: t.outsidePull.level, ohm: t.outsidePull.ohm }] : [],
  )
  return [...own, ...(line.pulls.length > 0 ? line.pulls.map((p) => ({ name: 'its added resistor', ...p })) : asked)]
}

/**
 * The first state that fights the level a pin must have at every start, in words, or null when all agree. The strap's
 * resistance and the part's form a divider: V = VDD · R_other / (R_strap + R_part), judged against the chip's
 * thresholds.
 */
export function strapConflict(board: Board, pin: BoardPin, line: PlanLine): string | null {
  const { strap } = pin
  if (!strap || strap.when !== 'every start' || strap.level === 'any') return null
  const vdd = board.logicV
  if (!strap.held) return unheld(board, strap, heldStates(board, line), line)
  for (const state of heldStates(board, line)) {
    if (state.level === 'open' || state.level === strap.level) continue
    const partShare = strap.ohm / (strap.ohm + state.ohm)
    const reached = state.level === 'high' ? vdd * partShare : vdd * (1 - partShare)
    const holds =
      strap.level === 'high' ? reached >= board.input.highRatio * vdd : reached <= board.input.lowRatio * vdd
    if (!holds) {
      return `must be ${strap.level} at reset, and “${state.name}” pulls it ${state.level} through ${ohms(state.ohm)}: ${volts(reached)} against the strap's ${ohms(strap.ohm)}`
    }
  }
  return null
}

/** A strap nothing holds: what uses the pin has to hold it, in every state of its part. */
function unheld(
  board: Board,
  strap: NonNullable<BoardPin['strap']>,
  states: readonly HeldState[],
  line: PlanLine,
): string | null {
  const modules = strap.level === 'high' ? line.members.flatMap((m) => m.kind.i2c?.pull?.ohm ?? []) : []
  const holding = [
    ...states
      .filter((s) => s.level === strap.level && (s.name === 'its added resistor' || s.name === 'waiting'))
      .map((s) => s.ohm),
    ...modules,
  ]
  const steady = states.length > 0 && states.every((s) => s.level === strap.level)
  if (holding.length === 0)
    return steady
      ? null
      : `must be ${strap.level} at reset, and nothing holds it there: a resistor of 10 kΩ of its own to ${strap.level === 'high' ? '3.3 V' : 'ground'} would`
  const ohm = 1 / holding.reduce((s, r) => s + 1 / r, 0)
  const against = states.find(
    (s) => s.level !== 'open' && s.level !== strap.level && ohm / (ohm + s.ohm) > board.input.lowRatio,
  )
  return against
    ? `must be ${strap.level} at reset, and “${against.name}” pulls it ${against.level} through ${ohms(against.ohm)} against the ${ohms(ohm)} that hold it`
    : null
}

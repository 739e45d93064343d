import type { Board, BoardPin } from '../catalog/board'
import type { PlanLine } from './lines'
import { strapConflict } from './strapLevel'
import { WEIGHTS, type WeightName } from './weights'

export type Verdict =
  | { fits: true; cost: number; weighs: { name: WeightName; cost: number; why: string }[] }
  | { fits: false; reason: string }

/** May this line use this pin at all, and what would it cost. Looks at the pair alone, not at what else is planned. */
export function judgePin(board: Board, pin: BoardPin, line: PlanLine): Verdict {
  const reason = refusal(board, pin, line)
  if (reason) return { fits: false, reason }
  const weighs = [...weigh(pin, line)].map((name) => ({ name, ...WEIGHTS[name] }))
  return { fits: true, cost: weighs.reduce((sum, w) => sum + w.cost, 0), weighs }
}

function refusal(board: Board, pin: BoardPin, { terminal }: PlanLine): string | null {
  const reads = pin.functions.includes('in')
  const drives = pin.functions.includes('out')
  if (terminal.board !== 'drives' && !reads) return `${pin.label} cannot read a level`
  if (terminal.board !== 'reads' && !drives) return `${pin.label} only reads; ${terminal.label} needs a pin that drives`
  const meeting = startupFight(pin, terminal)
  if (meeting) return meeting
  if (terminal.output?.kind === 'open-drain' && terminal.board === 'both' && !pin.functions.includes('open-drain')) {
    return `${pin.label} has no open-drain output; ${terminal.label} needs one`
  }
  return hazardRefusal(pin, terminal) ?? strapConflict(board, pin, terminal)
}

/** Below this a part counts as an output that would fight a driven pin, ohm. */
const FIGHTS_BELOW_OHM = 300

/** A part that pulls hard against a pin the chip drives during start-up: two outputs meet. */
function startupFight(pin: BoardPin, terminal: PlanLine['terminal']): string | null {
  const against: Record<string, readonly string[]> = { driven: ['high', 'low'], 'driven-high': ['low'], 'driven-low': ['high'] }
  const state = terminal.states.find((s) => s.ohm < FIGHTS_BELOW_OHM && against[pin.startup]?.includes(s.level))
  return state ? `${pin.label} is driven during start-up, and “${state.name}” pulls it ${state.level}: two outputs would meet` : null
}

function hazardRefusal(pin: BoardPin, terminal: PlanLine['terminal']): string | null {
  if (!terminal.hazard) return null
  const safe = terminal.rest?.level ?? 'low'
  const what = 'what it switches would move before the program runs'
  if (pin.startup === 'pulses' || pin.startup === 'driven') return `${pin.label} pulses while the chip starts: ${what}`
  if (pin.startup === 'driven-high' && safe === 'low') return `${pin.label} is high while the chip starts: ${what}`
  if (pin.startup === 'driven-low' && safe === 'high') return `${pin.label} is low while the chip starts: ${what}`
  if (terminal.rest?.ownPullOhm == null) return `${pin.label} does not hold ${terminal.label} ${safe} while the chip starts, and the part has no pull of its own`
  return null
}

function* weigh(pin: BoardPin, { terminal }: PlanLine): Generator<WeightName> {
  const words = pin.quirks.map((q) => q.word)
  if (terminal.board === 'drives' && ['pulses', 'driven', 'driven-high'].includes(pin.startup)) yield 'pulseOnHarmlessOutput'
  if (terminal.board !== 'drives' && pin.startup === 'pulses') yield 'pulseOnInput'
  if (words.includes('console')) yield 'console'
  if (terminal.board === 'reads' && words.includes('brief false lows')) yield 'falseLows'
  if (pin.strap) yield 'strap'
  if (terminal.pull && !pullServes(pin, terminal.pull)) yield 'addedPull'
  if (pin.onBoard?.what === 'lamp') yield 'lamp'
  if (words.includes('taken on larger modules')) yield 'larger'
  if (pin.functions.includes('dac')) yield 'dac'
  if (pin.functions.includes('adc1') && pin.functions.includes('out')) yield 'analog'
  if (terminal.board === 'reads' && pin.functions.includes('out')) yield 'drives'
  if (pin.functions.includes('i2c-usual')) yield 'usualBus'
}

/** An internal pull serves unless a resistor on the board pulls the other way. */
export function pullServes(pin: BoardPin, wanted: 'up' | 'down'): boolean {
  const against = pin.onBoard?.what === 'resistor' && (pin.onBoard.to === 'ground') === (wanted === 'up')
  const helped = pin.onBoard?.what === 'resistor' && !against
  return helped || (pin.pulls.includes(wanted) && !against)
}

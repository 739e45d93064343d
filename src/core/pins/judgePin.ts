import type { Board, BoardPin } from '../catalog/board'
import { ohms, volts } from '../units/format'
import { BUS_WORDS, type PlanLine } from '../lines/lines'
import { heldStates, strapConflict } from './strapLevel'
import { WEIGHTS, type WeightName } from './weights'

export type Verdict =
  | { fits: true; cost: number; weighs: { name: WeightName; cost: number; why: string }[] }
  | { fits: false; reason: string }

/** May this line use this pin at all, and what would it cost. Looks at the pair alone, not at what else is planned. */
export function judgePin(board: Board, pin: BoardPin, line: PlanLine): Verdict {
  const reason = refusal(board, pin, line)
  if (reason) return { fits: false, reason }
  const weighs = [...weigh(board, pin, line)].map((name) => ({ name, ...WEIGHTS[name] }))
  return { fits: true, cost: weighs.reduce((sum, w) => sum + w.cost, 0), weighs }
}

function refusal(board: Board, pin: BoardPin, line: PlanLine): string | null {
  return (
    cannotDo(board, pin, line) ??
    cannotSleep(board, pin, line) ??
    startupFight(board, pin, line) ??
    heldAgainst(pin, line) ??
    hazardRefusal(board, pin, line) ??
    strapConflict(board, pin, line)
  )
}

/** What the pin lacks for this line. */
function cannotDo(board: Board, pin: BoardPin, line: PlanLine): string | null {
  const { terminal } = line
  const can = (f: BoardPin['functions'][number]) => pin.functions.includes(f)
  if (terminal.needs === 'analog') {
    if (can('adc1')) return null
    if (can('adc2') && !board.radios.includes('wifi')) return null
    return can('adc2') ? `${pin.label} cannot measure while Wi-Fi is on` : `${pin.label} cannot measure a voltage`
  }
  if (terminal.board !== 'drives' && !can('in')) return `${pin.label} cannot read a level`
  if (terminal.board !== 'reads' && !can('out'))
    return `${pin.label} only reads; ${terminal.label} needs a pin that drives`
  if (terminal.output?.kind === 'open-drain' && terminal.board === 'both' && !can('open-drain'))
    return `${pin.label} has no open-drain output; ${terminal.label} needs one`
  if (terminal.needs === 'pwm' && !can('pwm')) return `${pin.label} has no pulse-width output`
  if (terminal.needs === 'edges' && !pin.interrupt)
    return `${pin.label} has no interrupt; ${terminal.label} must catch each change`
  return cannotJoin(board, pin, line)
}

/** Buses on pins that silicon ties. */
function cannotJoin(board: Board, pin: BoardPin, { bus }: PlanLine): string | null {
  if (!bus || bus.kind === 'one-wire' || bus.role === 'cs') return null
  const { routing } = board.peripherals[bus.kind]
  if (routing === 'software') return pin.functions.includes('i2c') ? null : `${pin.label} cannot carry a bus`
  if (routing === 'fixed' && !pin.mux.some((m) => m.bus === bus.kind && m.role === bus.role))
    return `${pin.label} is not a ${bus.role.toUpperCase()} of any ${BUS_WORDS[bus.kind]} controller`
  return null
}

function cannotSleep(board: Board, pin: BoardPin, line: PlanLine): string | null {
  if (!line.sleeping) return null
  const { tie } = board.wake
  if (tie?.from === pin.label) return `${pin.label} is tied to ${tie.to}: without that this board does not wake`
  if (line.wakes && (board.wake.pins === 'none' || !pin.wake))
    return board.wake.pins === 'none'
      ? `no pin of this board ends its sleep. ${board.wake.note}`
      : `${pin.label} cannot end the sleep`
  return null
}

/** Below this a part counts as an output that would fight a driven pin, ohm. */
const FIGHTS_BELOW_OHM = 300

/** A part that pulls hard against a pin the chip drives during start-up: two outputs meet. */
function startupFight(board: Board, pin: BoardPin, line: PlanLine): string | null {
  const against: Record<string, readonly string[]> = {
    driven: ['high', 'low'],
    'driven-high': ['low'],
    'driven-low': ['high'],
  }
  const state = heldStates(board, line).find((s) => s.ohm < FIGHTS_BELOW_OHM && against[pin.startup]?.includes(s.level))
  return state
    ? `${pin.label} is driven during start-up, and “${state.name}” pulls it ${state.level}: two outputs would meet`
    : null
}

/**
 * A resistor of the board holds the pin at its reset level all the time: what would pull it to the other side keeps the
 * chip from starting.
 */
function heldAgainst({ label, onBoard, strap }: BoardPin, { terminal, bus }: PlanLine): string | null {
  if (terminal.board === 'drives' || bus || onBoard?.what !== 'resistor' || strap?.when !== 'every start') return null
  const wanted = terminal.pull
  if (!wanted || (onBoard.to === 'ground') !== (wanted === 'up') || !terminal.states.some((s) => s.level === 'open'))
    return null
  return `${label} is held ${strap.level} by ${ohms(onBoard.ohm)} on the board: it never reads ${wanted === 'up' ? 'high' : 'low'} while ${terminal.label} is open, and a resistor that won would keep the chip from starting`
}

/** For what heats, moves or pumps: the pin must not pulse, not be active, and not float without a pull that wins. */
export function hazardRefusal(board: Board, pin: BoardPin, { terminal, pulls }: PlanLine): string | null {
  if (!terminal.hazard) return null
  const safe = terminal.rest?.level ?? 'low'
  const what = 'what it switches would move before the program runs'
  if (pin.startup === 'pulses' || pin.startup === 'driven') return `${pin.label} pulses while the chip starts: ${what}`
  if (pin.startup === 'driven-high')
    return safe === 'low' ? `${pin.label} is high while the chip starts: ${what}` : null
  if (pin.startup === 'driven-low') return safe === 'high' ? `${pin.label} is low while the chip starts: ${what}` : null
  const own = terminal.rest?.ownPullOhm ?? null
  const toSafe = [...(own === null ? [] : [own]), ...pulls.filter((p) => p.level === safe).map((p) => p.ohm)]
  const chip = pullAtStart(board, pin)
  if (chip?.level === safe) return null
  if (toSafe.length === 0)
    return `${pin.label} does not hold ${terminal.label} ${safe} while the chip starts, and nothing else does: a resistor to the safe side would`
  if (!chip) return null
  const ohm = 1 / toSafe.reduce((sum, r) => sum + 1 / r, 0)
  const away = board.logicV * (ohm / (ohm + chip.ohm))
  return away <= board.input.lowRatio * board.logicV
    ? null
    : `${pin.label} is pulled ${chip.level} through ${ohms(chip.ohm)} while the chip starts, and ${ohms(ohm)} to the safe side leaves ${volts(safe === 'low' ? away : board.logicV - away)}: ${what}`
}

/** What pulls at a pin while the chip starts: a resistor on the board, or the chip itself. */
function pullAtStart(board: Board, { onBoard, startup }: BoardPin): { level: 'low' | 'high'; ohm: number } | null {
  if (onBoard?.what === 'resistor') return { level: onBoard.to === 'ground' ? 'low' : 'high', ohm: onBoard.ohm }
  if (startup === 'pulled-up') return { level: 'high', ohm: board.pulls.upOhm }
  return startup === 'pulled-down' ? { level: 'low', ohm: board.pulls.downOhm } : null
}

/** With this few pins that can end the sleep, each counts. */
const FEW_WAKE_PINS = 8

interface Place {
  board: Board
  pin: BoardPin
  line: PlanLine
}
const has = ({ pin }: Place, quirk: BoardPin['quirks'][number]['id']) => pin.quirks.some((q) => q.id === quirk)
const can = ({ pin }: Place, f: BoardPin['functions'][number]) => pin.functions.includes(f)
const USUAL = { i2c: 'i2c-usual', spi: 'spi-usual' } as const
const usualOf = ({ line: { bus } }: Place) => (bus?.kind === 'i2c' || bus?.kind === 'spi' ? USUAL[bus.kind] : null)
const STARTS_HIGH = ['pulses', 'driven', 'driven-high']

/** What a place costs, each with when it does; the prices are WEIGHTS. */
const COSTS: readonly (readonly [WeightName, (at: Place) => boolean])[] = [
  ['pulseOnHarmlessOutput', ({ pin, line }) => line.terminal.board === 'drives' && STARTS_HIGH.includes(pin.startup)],
  ['pulseOnInput', ({ pin, line }) => line.terminal.board !== 'drives' && pin.startup === 'pulses'],
  ['usb', (at) => has(at, 'usb')],
  ['console', (at) => has(at, 'console')],
  ['falseLows', (at) => at.line.terminal.board === 'reads' && has(at, 'false-lows')],
  ['strapForCable', ({ pin }) => pin.strap?.when === 'writing by cable'],
  ['strap', ({ pin }) => pin.strap !== undefined && pin.strap.when !== 'writing by cable'],
  [
    'addedPull',
    ({ pin, line: { terminal, pulls } }) => !!terminal.pull && pulls.length === 0 && !pullServes(pin, terminal.pull),
  ],
  ['lamp', ({ pin }) => pin.onBoard?.what === 'lamp'],
  ['larger', (at) => has(at, 'larger-modules')],
  ['glitch', (at) => !!at.line.terminal.hazard && has(at, 'glitch')],
  ['wakeSpent', wakeSpent],
  ['dac', (at) => can(at, 'dac')],
  ['analog', (at) => at.line.terminal.needs !== 'analog' && can(at, 'adc1') && can(at, 'out')],
  ['drives', (at) => at.line.terminal.board === 'reads' && at.line.terminal.needs !== 'analog' && can(at, 'out')],
  ['offUsual', offUsual],
  ['usualBus', (at) => usualOf(at) !== 'i2c-usual' && can(at, 'i2c-usual')],
]

/** A pin that could end the sleep, spent on a line that does not. */
function wakeSpent({ board, pin, line }: Place): boolean {
  if (!line.sleeping || line.wakes || !pin.wake) return false
  return board.positions.filter((p) => p.kind === 'pin' && p.wake).length <= FEW_WAKE_PINS
}

/** A bus away from the pins where it usually is, on a board that has such pins. */
function offUsual(at: Place): boolean {
  const usual = usualOf(at)
  if (usual === null || can(at, usual)) return false
  return at.board.positions.some((p) => p.kind === 'pin' && p.functions.includes(usual))
}

const weigh = (board: Board, pin: BoardPin, line: PlanLine): WeightName[] =>
  COSTS.filter(([, applies]) => applies({ board, pin, line })).map(([name]) => name)

/** An internal pull serves unless a resistor on the board pulls the other way. */
export function pullServes(pin: BoardPin, wanted: 'up' | 'down'): boolean {
  const against = pin.onBoard?.what === 'resistor' && (pin.onBoard.to === 'ground') === (wanted === 'up')
  const helped = pin.onBoard?.what === 'resistor' && !against
  return helped || (pin.pulls.includes(wanted) && !against)
}

import { type Board, type BoardPin, pinsOf } from '../catalog/board'
import { BUS_WORDS, type PlanLine } from '../lines/lines'

/** Controller each bus has, by the bus's id. Empty where any pin can be any controller. */
export type Variant = ReadonlyMap<string, number>

const TIED = ['i2c', 'spi', 'uart'] as const

/** Every way to give the buses of a board with tied pins different controllers. One empty way where nothing is tied. */
export function* busVariants(board: Board, lines: readonly PlanLine[]): Generator<Variant> {
  const wanted = TIED.flatMap((kind) =>
    board.peripherals[kind].routing === 'fixed' ? busIds(lines, kind).map((id) => ({ kind, id })) : [],
  )
  yield* give(0, new Map())

  function* give(at: number, given: Map<string, number>): Generator<Variant> {
    const bus = wanted[at]
    if (!bus) return void (yield new Map(given))
    const taken = wanted.slice(0, at).flatMap((w) => (w.kind === bus.kind ? [given.get(w.id)] : []))
    for (const controller of controllersOf(board, bus.kind)) {
      if (taken.includes(controller)) continue
      yield* give(at + 1, new Map([...given, [bus.id, controller]]))
    }
  }
}

/** May this pin serve the line when its bus has the controller the variant gives it? */
export function inVariant(variant: Variant, line: PlanLine | undefined, pin: BoardPin): boolean {
  const { bus } = line ?? {}
  const controller = bus ? variant.get(bus.id) : undefined
  if (!bus || controller === undefined || bus.role === 'cs' || bus.role === 'data') return true
  return pin.mux.some((m) => m.bus === bus.kind && m.role === bus.role && m.controller === controller)
}

function controllersOf(board: Board, kind: (typeof TIED)[number]): number[] {
  const all = [
    ...new Set(
      board.positions.flatMap((p) =>
        p.kind === 'pin' ? p.mux.filter((m) => m.bus === kind).map((m) => m.controller) : [],
      ),
    ),
  ].sort()
  // The console keeps the first one.
  return kind === 'uart' && board.peripherals.uart.console ? all.filter((c) => c !== 0) : all
}

function busIds(lines: readonly PlanLine[], kind: (typeof TIED)[number]): string[] {
  return [...new Set(lines.flatMap((l) => (l.bus?.kind === kind && l.bus.role !== 'cs' ? [l.bus.id] : [])))]
}

export interface Shortage {
  words: string
  lines: PlanLine[]
}

/**
 * The first thing a chip has too few of for these lines, whatever pins they get; null when there is enough of
 * everything.
 */
export function shortage(board: Board, lines: readonly PlanLine[]): Shortage | null {
  for (const kind of TIED) {
    const { count, routing } = board.peripherals[kind]
    if (routing === 'software') continue
    const free = kind === 'uart' && board.peripherals.uart.console ? count - 1 : count
    const ids = busIds(lines, kind)
    if (ids.length > free) {
      return {
        words: `${ids.length} ${BUS_WORDS[kind]} ${ids.length === 1 ? 'bus is' : 'buses are'} wished for, and this chip has ${free === 0 ? 'none' : free}${kind === 'uart' && board.peripherals.uart.console ? ' beside its console' : ''}`,
        lines: lines.filter((l) => l.bus?.kind === kind && l.bus.role !== 'cs'),
      }
    }
  }
  const pins = pinsOf(board).length
  if (lines.length > pins)
    return { words: `${lines.length} lines need a pin, and this board has ${pins}`, lines: lines.slice(0, pins + 1) }
  const pwm = lines.filter((l) => l.terminal.needs === 'pwm')
  const { channels, timers, routing } = board.peripherals.pwm
  const frequencies = [...new Set(pwm.map((l) => l.terminal.pwmHz ?? 1000))]
  if (pwm.length > channels)
    return { words: `${pwm.length} pulse-width outputs are wished for, and this chip has ${channels}`, lines: pwm }
  if (routing === 'fixed') {
    // A slice has two outputs and one frequency: each frequency takes half as many slices as outputs, rounded up.
    const slices = new Set(pinsOf(board).flatMap((p) => (p.pwm ? [p.pwm.slice] : []))).size
    const wanted = frequencies.map((hz) => ({ hz, n: pwm.filter((l) => (l.terminal.pwmHz ?? 1000) === hz).length }))
    const needed = wanted.reduce((s, w) => s + Math.ceil(w.n / 2), 0)
    if (needed > slices)
      return {
        words: `${wanted.map((w) => `${w.n} pulse-width ${w.n === 1 ? 'output' : 'outputs'} of ${w.hz} Hz`).join(' and ')} need ${needed} slices of two outputs and one frequency each, and this chip has ${slices}`,
        lines: pwm,
      }
  }
  if (frequencies.length > timers && routing !== 'fixed') {
    return {
      words: `${frequencies.length} different pulse-width frequencies are wished for (${frequencies.join(', ')} Hz), and this chip has ${timers === 1 ? 'one timer' : `${timers} timers`}`,
      lines: pwm,
    }
  }
  return sleepShortage(board, lines)
}

/**
 * Several lines that each pull low cannot each end the sleep of a chip that only wakes on one pin, on any high, or on
 * all low.
 */
function sleepShortage(board: Board, lines: readonly PlanLine[]): Shortage | null {
  const waking = lines.filter((l) => l.wakes)
  if (waking.length < 2 || board.wake.pins !== 'one, or any high') return null
  const low = waking.filter((l) =>
    l.channels.some((c) => c.access !== 'reading' && (c.activeLevel === 'low') !== l.inverted),
  )
  return low.length > 0
    ? {
        words: `${waking.length} lines are to end the sleep, and this chip wakes on one pin, or on any that goes high: contacts to ground cannot each wake it`,
        lines: waking,
      }
    : null
}

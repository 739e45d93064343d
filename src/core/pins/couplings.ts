import { type Board, type BoardPin, pinsOf } from '../catalog/board'
import { NEVER } from './lsap'
import type { PlanLine } from '../lines/lines'
import type { Coupling, Twins } from './solve'
import { TOGETHER } from './weights'

/**
 * What pairs of lines cost or forbid together: lines of one part or bus wanted side by side, pulse-width outputs that
 * silicon ties.
 */
export function couplingsOf(board: Board, lines: readonly PlanLine[], scale: number): Coupling[] {
  const pins = pinsOf(board)
  const near = tableOf(pins, (p, q) => scale * sideBySide(p, q, 'neighbours'))
  const edge = tableOf(pins, (p, q) => scale * sideBySide(p, q, 'edge'))
  // Few tables differ: lines that want the same of each other share one, and what is worked out from it.
  const tables = new Map<string, Float64Array>()
  const shared = (key: string, make: () => Float64Array) => {
    const table = tables.get(key) ?? make()
    tables.set(key, table)
    return table
  }
  const out: Coupling[] = []
  for (let a = 0; a < lines.length; a++) {
    for (let b = a + 1; b < lines.length; b++) {
      const [x, y] = [lines[a], lines[b]]
      if (!x || !y) continue
      const pulses = tiedOutputs(board, x, y)
      const tied =
        pulses && shared(pulses, () => tableOf(pins, (p, q) => (clash(p, q, pulses === 'one frequency') ? NEVER : 0)))
      const wish = wantedNear(x, y)
      const side = wish === 'neighbours' ? near : edge
      if (tied && wish)
        out.push({
          a,
          b,
          table: shared(`${pulses} ${wish}`, () => tied.map((v, i) => Math.min(NEVER, v + (side[i] ?? 0)))),
        })
      else if (tied) out.push({ a, b, table: tied })
      else if (wish) out.push({ a, b, table: side })
    }
  }
  return out
}

/** A part with more lines than this is wide: one edge of the board is then all that is asked of them. */
const WIDE = 4

export type Nearness = 'neighbours' | 'edge'

/**
 * What two lines want of each other: neighbours among a part's own lines, and the lines of one shared bus, side by
 * side; of a wide part at one edge.
 */
export function wantedNear(x: PlanLine, y: PlanLine): Nearness | null {
  const sharedX = x.bus !== null && !x.key.startsWith(`${x.partId}.`)
  const sharedY = y.bus !== null && !y.key.startsWith(`${y.partId}.`)
  if (sharedX !== sharedY) return null
  if (sharedX)
    return x.bus?.id === y.bus?.id && !(x.bus?.kind === 'spi' && (x.bus.role === 'sck') === (y.bus?.role === 'sck'))
      ? 'neighbours'
      : null
  if (x.partId !== y.partId) return null
  const own = x.kind.terminals.filter((t) => t.role === 'line')
  if (Math.abs(own.indexOf(x.terminal) - own.indexOf(y.terminal)) !== 1) return null
  return own.length > WIDE ? 'edge' : 'neighbours'
}

/** Yes or no, not a distance: different edges, or not neighbouring positions. */
export function sideBySide(p: BoardPin, q: BoardPin, wish: Nearness): number {
  if (wish === 'edge') return p.side === q.side ? 0 : TOGETHER.edges.cost
  if (p.side !== q.side) return TOGETHER.edges.cost + TOGETHER.apart.cost
  return Math.abs(p.position - q.position) === 1 ? 0 : TOGETHER.apart.cost
}

/** Pins of one output channel cannot carry two signals, and one slice has one frequency. */
function tiedOutputs(board: Board, x: PlanLine, y: PlanLine): 'one frequency' | 'two frequencies' | null {
  if (board.peripherals.pwm.routing !== 'fixed' || x.terminal.needs !== 'pwm' || y.terminal.needs !== 'pwm') return null
  return x.terminal.pwmHz === y.terminal.pwmHz ? 'one frequency' : 'two frequencies'
}

export function clash(p: BoardPin, q: BoardPin, sameFrequency: boolean): boolean {
  if (!p.pwm || !q.pwm || p.pwm.slice !== q.pwm.slice) return false
  return p.pwm.channel === q.pwm.channel || !sameFrequency
}

function tableOf(pins: BoardPin[], cost: (p: BoardPin, q: BoardPin) => number): Float64Array {
  return Float64Array.from(pins.flatMap((p) => pins.map((q) => cost(p, q))))
}

/** Parts that are alike in kind, settings and price rows may change places: only one order of them is looked at. */
export function twinsOf(lines: readonly PlanLine[], rowText: (row: number) => string): Twins[] {
  const groups = new Map<string, number[][]>()
  const byPart = new Map<string, number[]>()
  lines.forEach((line, row) => {
    if (line.members.length === 1 && line.key.startsWith(`${line.partId}.`))
      byPart.set(line.partId, [...(byPart.get(line.partId) ?? []), row])
  })
  for (const rows of byPart.values()) {
    if (rows.length < 2) continue
    const first = lines[rows[0] ?? 0]
    const alike = [first?.part.kind, ...rows.map(rowText)].join('\n')
    groups.set(alike, [...(groups.get(alike) ?? []), rows])
  }
  return [...groups.values()].filter((units) => units.length > 1).map((units) => ({ units }))
}

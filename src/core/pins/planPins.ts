import { type Board, type BoardPin, pinByLabel, pinsOf } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import { type Design, type LineKey, splitLineKey } from '../design/design'
import { findConflict, type Conflict } from './conflict'
import { judgePin } from './judgePin'
import { type PlanLine, planLines } from './lines'

/** Lexicographic price of an assignment: made wires moved, then planned lines moved, then what the pins cost. */
export interface Price { madeMoved: number; moved: number; cost: number }

export type PinPlan =
  | { kind: 'planned'; pins: Record<LineKey, string>; price: Price; moves: { line: LineKey; from: string; to: string }[]; proven: true; explored: number }
  | { kind: 'impossible'; conflict: Conflict; explored: number }

export interface PlanOptions {
  /** `kept` weighs made wires, then moved lines, then cost; `afresh` weighs cost first and moves only for it. */
  past: 'kept' | 'afresh'
}

/**
 * The best assignment of pins to all lines, proven by exhausting the alternatives, or an irreducible conflict.
 * Hard: function, reset levels, start-up, locks, pins kept free, no pin twice. Pure: same design and catalogue, same plan.
 */
export function planPins(design: Design, catalog: Catalog, options: PlanOptions = { past: 'kept' }): PinPlan {
  const board = catalog.boards[design.board.id]
  if (!board) throw new RangeError(`board ${design.board.id} is not in the catalogue`)
  const lines = planLines(design, catalog)
  const problem = wishesOf(design, board, lines, options)
  const found = solve(problem)
  if (!found.best) return { kind: 'impossible', conflict: findConflict(design, board, lines), explored: found.explored }
  const pins = found.best
  const moves = lines.flatMap(({ key }) => {
    const from = design.plan.pins[key]
    const to = pins[key]
    return from !== undefined && to !== undefined && from !== to ? [{ line: key, from, to }] : []
  })
  return { kind: 'planned', pins, price: priceOf(design, board, lines, pins), moves, proven: true, explored: found.explored }
}

/** What the accepted plan costs as it stands; lines without a pin cost nothing. */
export function priceOf(design: Design, board: Board, lines: PlanLine[], pins: Record<LineKey, string>): Price {
  const price: Price = { madeMoved: 0, moved: 0, cost: 0 }
  for (const line of lines) {
    const label = pins[line.key]
    if (label === undefined) continue
    const pin = pinByLabel(board, label)
    const verdict = pin && judgePin(board, pin, line)
    if (verdict?.fits) price.cost += verdict.cost
    const before = design.plan.pins[line.key]
    if (before === undefined || before === label) continue
    price.moved += 1
    if (lineIsMade(design, line.key)) price.madeMoved += 1
  }
  return price
}

/** True when a wire of this line is soldered or screwed already. */
export function lineIsMade(design: Design, line: LineKey): boolean {
  const { partId, terminalId } = splitLineKey(line)
  return Object.entries(design.wires).some(([key, wire]) => wire.made && key.split('|').includes(`part:${partId}.${terminalId}`))
}

export interface Wish { line: LineKey; options: { pin: string; weight: number }[] }

// The levels of the price fit one number: costs and moves of a whole plan stay far below 10⁴.
const LEVEL = 1e4

function wishesOf(design: Design, board: Board, lines: PlanLine[], options: PlanOptions): Wish[] {
  return lines.map((line) => {
    const before = design.plan.pins[line.key]
    const made = before !== undefined && lineIsMade(design, line.key)
    const weigh = (cost: number, moves: boolean) => options.past === 'afresh'
      ? cost * LEVEL + Number(moves)
      : cost + (moves ? LEVEL + (made ? LEVEL * LEVEL : 0) : 0)
    return {
      line: line.key,
      options: allowedPins(design, board, line).map(({ pin, cost }) => ({
        pin: pin.label,
        weight: weigh(cost, before !== undefined && pin.label !== before),
      })),
    }
  })
}

/** Pins this line may have under the hard rules, its lock and the pins kept free. */
export function allowedPins(design: Pick<Design, 'locks' | 'keptFree'>, board: Board, line: PlanLine): { pin: BoardPin; cost: number }[] {
  const lock = design.locks[line.key]
  return pinsOf(board).flatMap((pin) => {
    if (lock !== undefined ? pin.label !== lock : design.keptFree[pin.label]) return []
    const verdict = judgePin(board, pin, line)
    return verdict.fits ? [{ pin, cost: verdict.cost }] : []
  })
}

/** Depth-first branch and bound. Lines with the fewest options first; ties by board order, so the answer is one. */
export function solve(wishes: Wish[]): { best: Record<LineKey, string> | null; explored: number } {
  const order = [...wishes]
    .map((w) => ({ ...w, options: [...w.options].sort((a, b) => a.weight - b.weight) }))
    .sort((a, b) => a.options.length - b.options.length || a.line.localeCompare(b.line))
  const leastFrom = order.map((_, i) => order.slice(i).reduce((sum, w) => sum + (w.options[0]?.weight ?? 0), 0))
  const used = new Set<string>()
  const chosen: string[] = []
  let best: string[] | null = null
  let bestWeight = Infinity
  let explored = 0

  const visit = (depth: number, weight: number): void => {
    explored += 1
    const wish = order[depth]
    if (!wish) {
      best = [...chosen]
      bestWeight = weight
      return
    }
    const rest = leastFrom[depth + 1] ?? 0
    for (const option of wish.options) {
      if (weight + option.weight + rest >= bestWeight) break
      if (used.has(option.pin)) continue
      used.add(option.pin)
      chosen.push(option.pin)
      visit(depth + 1, weight + option.weight)
      chosen.pop()
      used.delete(option.pin)
    }
  }
  if (order.every((w) => w.options.length > 0)) visit(0, 0)
  const answer = best as string[] | null
  return { best: answer && Object.fromEntries(order.map((w, i) => [w.line, answer[i] ?? ''])), explored }
}

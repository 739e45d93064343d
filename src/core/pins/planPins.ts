import { type Board, type BoardPin, pinByLabel, pinsOf } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import type { Design, LineKey } from '../model/design'
import { type Conflict, findConflicts } from './conflict'
import { couplingsOf, sideBySide, twinsOf, wantedNear } from './couplings'
import { judgePin } from './judgePin'
import { type PlanLine, planLines } from '../lines/lines'
import { NEVER } from './lsap'
import { busVariants, inVariant, shortage } from './resources'
import { firstBound, type Problem, solve } from './solve'

/** Lexicographic price of an assignment: made wires moved, then planned lines moved, then what the pins cost. */
export interface Price {
  madeMoved: number
  moved: number
  cost: number
}

export interface Move {
  line: LineKey
  from: string
  to: string
  made: boolean
}

export type PinPlan =
  | {
      kind: 'planned'
      pins: Record<LineKey, string>
      price: Price
      moves: Move[]
      /**
       * False when it was stopped: then no plan is cheaper than `bound`, in the unit of the lowest level of the price
       * that is open.
       */
      proven: boolean
      bound: Price
      explored: number
    }
  | { kind: 'impossible'; conflicts: Conflict[]; explored: number }
  | { kind: 'stopped'; explored: number }

export interface PlanOptions {
  /** `kept` weighs made wires, then moved lines, then cost; `afresh` weighs cost first and moves only for it. */
  past: 'kept' | 'afresh'
  /** Asked now and then with the best plan so far, if there is one; true ends the search with it. */
  stop?: (at: { explored: number; best: PinPlan | null }) => boolean
  /** Plans these lines alone. */
  only?: ReadonlySet<LineKey>
  /** `unsaid` leaves out why nothing can be planned. */
  conflicts?: 'said' | 'unsaid'
}

// The levels of the price fit one number: costs and moves of a whole plan stay far below 10⁴.
const LEVEL = 1e4

/**
 * The best assignment of pins to all lines, proven, or irreducible conflicts. Hard: function, buses that silicon ties,
 * numbers of controllers, channels and frequencies, reset levels against every state, start-up, sleep, locks, pins kept
 * free, no pin twice. Pure: same design and catalogue, same plan.
 */
export function planPins(design: Design, catalog: Catalog, options: PlanOptions = { past: 'kept' }): PinPlan {
  const board = catalog.boards[design.board.id]
  if (!board) throw new RangeError(`board ${design.board.id} is not in the catalogue`)
  const { only } = options
  const lines = planLines(design, catalog).filter((l) => only?.has(l.key) ?? true)
  const pins = pinsOf(board)
  const weigh = weighing(design, options.past)
  const short = shortage(board, lines) !== null
  const rows = short ? [] : lines.map((line) => rowOf(design, board, pins, line, weigh))
  let best: number[] | null = null
  let weight = NEVER
  let bound = NEVER
  let explored = 0
  let proven = true
  if (!short) {
    const couplings = couplingsOf(board, lines, options.past === 'afresh' ? LEVEL : 1)
    const problems = [...busVariants(board, lines)]
      .map((variant): Problem => {
        const cost = Float64Array.from(
          rows.flatMap((row, r) =>
            pins.map((pin, c) => (inVariant(variant, lines[r], pin) ? (row[c] ?? NEVER) : NEVER)),
          ),
        )
        return {
          rows: lines.length,
          columns: pins.length,
          cost,
          couplings,
          twins: twinsOf(lines, (r) => cost.subarray(r * pins.length, (r + 1) * pins.length).join(' ')),
        }
      })
      .map((problem) => ({ problem, least: firstBound(problem) }))
      .sort((x, y) => x.least - y.least)
    for (const [i, { problem }] of problems.entries()) {
      // What is still to be looked at begins no lower than the next in line.
      const ahead = problems[i + 1]?.least ?? NEVER
      const lowest = (here: number) => Math.min(weight, here, ahead)
      const found = solve(problem, {
        below: weight,
        stop:
          options.stop &&
          ((at) =>
            options.stop?.({
              explored: explored + at.explored,
              best: planned(at.columns ?? best, lowest(at.bound), false, explored + at.explored),
            }) ?? false),
      })
      explored += found.explored
      if (found.columns) {
        best = found.columns
        weight = found.weight
      }
      bound = lowest(found.bound)
      if (!found.proven) {
        proven = false
        break
      }
      if (ahead >= weight) break
    }
  }
  if (!best)
    return proven
      ? {
          kind: 'impossible',
          conflicts: options.conflicts === 'unsaid' ? [] : findConflicts(design, board, lines),
          explored,
        }
      : { kind: 'stopped', explored }
  return planned(best, bound, proven, explored)

  function planned(columns: number[], lowest: number, isProven: boolean, seen: number): PinPlan
  function planned(columns: number[] | null, lowest: number, isProven: boolean, seen: number): PinPlan | null
  function planned(columns: number[] | null, lowest: number, isProven: boolean, seen: number): PinPlan | null {
    if (!columns || !board) return null
    const chosen = Object.fromEntries(lines.map((l, r) => [l.key, pins[columns[r] ?? 0]?.label ?? '']))
    const price = priceOf(design, board, lines, chosen)
    return {
      kind: 'planned',
      pins: chosen,
      price,
      moves: movesOf(design, lines, chosen),
      proven: isProven,
      bound: isProven ? price : levels(lowest, options.past),
      explored: seen,
    }
  }
}

/** Weight of a place for a line: its own price and that of moving there. */
export function weighing(
  design: Design,
  past: PlanOptions['past'],
): (line: PlanLine, pin: string, cost: number) => number {
  const made = new Map<LineKey, boolean>()
  return (line, pin, cost) => {
    const before = design.plan.pins[line.key]
    const moves = before !== undefined && before !== pin
    if (past === 'afresh') return cost * LEVEL + Number(moves)
    if (!moves) return cost
    const isMade = made.get(line.key) ?? lineIsMade(design, line)
    made.set(line.key, isMade)
    return cost + LEVEL + (isMade ? LEVEL * LEVEL : 0)
  }
}

function levels(weight: number, past: PlanOptions['past']): Price {
  if (past === 'afresh') return { madeMoved: 0, moved: weight % LEVEL, cost: Math.floor(weight / LEVEL) }
  return {
    madeMoved: Math.floor(weight / LEVEL / LEVEL),
    moved: Math.floor(weight / LEVEL) % LEVEL,
    cost: weight % LEVEL,
  }
}

function rowOf(
  design: Design,
  board: Board,
  pins: readonly BoardPin[],
  line: PlanLine,
  weigh: ReturnType<typeof weighing>,
): number[] {
  const lock = design.locks[line.key]
  return pins.map((pin) => {
    if (lock !== undefined ? pin.label !== lock : design.keptFree[pin.label]) return NEVER
    const verdict = judgePin(board, pin, line)
    return verdict.fits ? weigh(line, pin.label, verdict.cost) : NEVER
  })
}

/** What an assignment costs as it stands; lines without a pin cost nothing. */
export function priceOf(design: Design, board: Board, lines: PlanLine[], pins: Record<LineKey, string>): Price {
  const price: Price = { madeMoved: 0, moved: 0, cost: 0 }
  const placed = lines.flatMap((line) => {
    const pin = pinByLabel(board, pins[line.key] ?? '')
    return pin ? [{ line, pin }] : []
  })
  for (const { line, pin } of placed) {
    const verdict = judgePin(board, pin, line)
    if (verdict.fits) price.cost += verdict.cost
  }
  placed.forEach((x, i) => {
    for (const y of placed.slice(i + 1)) {
      const wish = wantedNear(x.line, y.line)
      if (wish) price.cost += sideBySide(x.pin, y.pin, wish)
    }
  })
  for (const { made } of movesOf(design, lines, pins)) {
    price.moved += 1
    if (made) price.madeMoved += 1
  }
  return price
}

export function movesOf(design: Design, lines: readonly PlanLine[], pins: Record<LineKey, string>): Move[] {
  return lines.flatMap((line) => {
    const from = design.plan.pins[line.key]
    const to = pins[line.key]
    return from !== undefined && to !== undefined && from !== to
      ? [{ line: line.key, from, to, made: lineIsMade(design, line) }]
      : []
  })
}

/** True when a wire of this line is soldered or screwed already. */
export function lineIsMade(design: Design, line: PlanLine): boolean {
  const made = madeEnds(design)
  return made.has(`rail:${line.key}`) || line.members.some((m) => made.has(`part:${m.partId}.${m.terminal.id}`))
}

const endsOfMade = new WeakMap<Design['wires'], ReadonlySet<string>>()

/** Every end a made wire has: worked out once for a table of wires. */
function madeEnds({ wires }: Design): ReadonlySet<string> {
  const known = endsOfMade.get(wires)
  if (known) return known
  const ends = new Set(Object.entries(wires).flatMap(([key, wire]) => (wire.made ? key.split('|') : [])))
  endsOfMade.set(wires, ends)
  return ends
}

/** Pins this line may have under the hard rules, its lock and the pins kept free. */
export function allowedPins(
  design: Pick<Design, 'locks' | 'keptFree'>,
  board: Board,
  line: PlanLine,
): { pin: BoardPin; cost: number }[] {
  const lock = design.locks[line.key]
  return pinsOf(board).flatMap((pin) => {
    if (lock !== undefined ? pin.label !== lock : design.keptFree[pin.label]) return []
    const verdict = judgePin(board, pin, line)
    return verdict.fits ? [{ pin, cost: verdict.cost }] : []
  })
}

/**
 * The first hard rule an assignment breaks that is not one of a single line and pin, in words; null when it breaks
 * none.
 */
export function brokenTogether(board: Board, lines: readonly PlanLine[], pins: Record<LineKey, string>): string | null {
  const short = shortage(board, lines)
  if (short) return short.words
  const placed = lines.flatMap((line) => {
    const pin = pinByLabel(board, pins[line.key] ?? '')
    return pin ? [{ line, pin }] : []
  })
  const couplings = couplingsOf(
    board,
    placed.map((p) => p.line),
    0,
  )
  const all = pinsOf(board)
  for (const { a, b, table } of couplings) {
    const [x, y] = [placed[a], placed[b]]
    if (x && y && (table[all.indexOf(x.pin) * all.length + all.indexOf(y.pin)] ?? 0) >= NEVER)
      return `${x.pin.label} and ${y.pin.label} share one pulse-width output or its frequency`
  }
  const suits = [...busVariants(board, lines)].some((v) => placed.every(({ line, pin }) => inVariant(v, line, pin)))
  return suits ? null : 'lines of one bus end at different controllers'
}

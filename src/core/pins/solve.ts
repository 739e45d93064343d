import { ROUND } from './afterRounds'
import { Assignment, NEVER } from './lsap'

/**
 * What two rows cost together: `table[p * columns + q]` for the first on p and the second on q; NEVER where they cannot
 * be there together.
 */
export interface Coupling {
  a: number
  b: number
  table: Float64Array
}

/**
 * Rows that may change places without changing any cost: unit i of a group has its rows at `units[i]`, in the same
 * order.
 */
export interface Twins {
  units: number[][]
}

export interface Problem {
  rows: number
  columns: number
  /** Row by row, non-negative integers or NEVER. */
  cost: Float64Array
  couplings: Coupling[]
  twins: Twins[]
}

export interface Solution {
  /** Column of each row, or null when nothing was found. */
  columns: number[] | null
  weight: number
  /** No solution is lighter than this. Equal to `weight` when proven. */
  bound: number
  proven: boolean
  explored: number
}

/** How far a search has come; `columns` is the best so far. */
export type Progress = Omit<Solution, 'proven'>

/**
 * A part of the search: an assignment with its forbidden places, and for each coupling the span its price must lie in.
 */
interface Open {
  assignment: Assignment
  low: Float64Array
  high: Float64Array
  bound: number
}

/**
 * The lightest assignment of rows to different columns, proven: branch and bound, the lowest bound first. The bound at
 * every node is an assignment problem solved exactly, with what couplings will add at least. A coupling that costs more
 * than its bound is split by its price (the cheapest, or more), which raises the bound at once; only what must have an
 * exact price is split by places. `below` prunes what an earlier solution beats already. `stop` is asked now and then;
 * when it says so the best so far is given with the bound that is left.
 */
export function solve(problem: Problem, options: { below?: number; stop?: (at: Progress) => boolean } = {}): Solution {
  const search = new Search(problem, options.below ?? NEVER)
  const proven = search.run(options.stop ?? (() => false))
  return {
    columns: search.best,
    weight: search.weight,
    bound: proven ? search.weight : search.leastOpen,
    proven,
    explored: Math.max(search.explored, 1),
  }
}

/** What no solution of a problem is lighter than, without any search: the bound a search would begin with. */
export function firstBound(problem: Problem): number {
  return new Search(problem, NEVER).rootBound()
}

/** Open parts of the search by their bound; of equal ones the latest first. Few bounds differ, so each has a pile. */
class Frontier {
  private readonly piles = new Map<number, Open[]>()

  put(node: Open): void {
    const pile = this.piles.get(node.bound)
    if (pile) pile.push(node)
    else this.piles.set(node.bound, [node])
  }

  take(): Open | undefined {
    let least = Infinity
    for (const bound of this.piles.keys()) if (bound < least) least = bound
    const pile = this.piles.get(least)
    const node = pile?.pop()
    if (pile?.length === 0) this.piles.delete(least)
    return node
  }
}

/** Worked out once for each table, however many searches use it. */
const partnersOf = new WeakMap<Float64Array, { ofA: Int16Array; ofB: Int16Array }>()

/** Row by row the other columns, by rising price. */
function cheapestFirst(columns: number, price: (from: number, to: number) => number): Int16Array {
  const all = Array.from({ length: columns }, (_, i) => i)
  return Int16Array.from(all.flatMap((from) => [...all].sort((x, y) => price(from, x) - price(from, y) || x - y)))
}

class Search {
  best: number[] | null = null
  explored = 0
  leastOpen = 0
  private readonly open = new Frontier()
  /** For each coupling the partners of every column, cheapest first: seen from the first row and from the second. */
  private readonly partners: { ofA: Int16Array; ofB: Int16Array }[]
  private readonly added: Float64Array

  constructor(
    private readonly p: Problem,
    public weight: number,
  ) {
    const { rows, columns, couplings } = p
    this.partners = couplings.map(({ table }) => {
      const sorted = partnersOf.get(table) ?? {
        ofA: cheapestFirst(columns, (p, q) => table[p * columns + q] ?? 0),
        ofB: cheapestFirst(columns, (q, p) => table[p * columns + q] ?? 0),
      }
      partnersOf.set(table, sorted)
      return sorted
    })
    this.added = new Float64Array(rows * columns)
  }

  rootBound(): number {
    return this.tighten(this.root())
  }

  private root(): Open {
    const { rows, columns, couplings, cost } = this.p
    const assignment = new Assignment(rows, columns)
    for (let r = 0; r < rows; r++)
      for (let c = 0; c < columns; c++) assignment.cost[r * columns + c] = cost[r * columns + c] ?? NEVER
    return {
      assignment,
      low: new Float64Array(couplings.length),
      high: new Float64Array(couplings.length).fill(NEVER - 1),
      bound: 0,
    }
  }

  /** True when everything has been looked through or ruled out. */
  run(stop: (at: Progress) => boolean): boolean {
    this.enter(this.root())
    for (let node = this.open.take(); node && node.bound < this.weight; node = this.open.take()) {
      this.explored += 1
      if (
        this.explored % ROUND === 0 &&
        stop({ explored: this.explored, columns: this.best, weight: this.weight, bound: node.bound })
      ) {
        this.leastOpen = node.bound
        return false
      }
      // Among equal bounds the last put in comes out first: the most promising child goes in last.
      for (const child of this.split(node).sort((x, y) => y.bound - x.bound)) this.open.put(child)
    }
    return true
  }

  /**
   * Works out the bound of a node and whether its assignment is better than the best; puts it on the stack when it is
   * worth splitting.
   */
  private enter(node: Open): void {
    const open = this.judge(node)
    if (open) this.open.put(open)
  }

  private judge(node: Open): Open | null {
    const bound = this.tighten(node)
    if (bound >= this.weight) return null
    const total = this.price(node.assignment)
    if (total < this.weight) {
      this.weight = total
      this.best = Array.from(node.assignment.columnOf.subarray(0, this.p.rows))
    }
    return total === bound ? null : { ...node, bound }
  }

  private split(node: Open): Open[] {
    const { columns, couplings } = this.p
    const { assignment, low, high } = node
    let worst = 0
    let chosen = -1
    let tightest = Infinity
    let row = -1
    const narrow = (r: number) => {
      if (this.options(assignment, r) <= 1) return
      const n = this.near(node, r)
      if (n < tightest) {
        tightest = n
        row = r
      }
    }
    couplings.forEach(({ a, b, table }, k) => {
      const t = table[(assignment.columnOf[a] ?? 0) * columns + (assignment.columnOf[b] ?? 0)] ?? 0
      if (t > (high[k] ?? 0)) [a, b].forEach(narrow)
      else if (t - (low[k] ?? 0) > worst) {
        worst = t - (low[k] ?? 0)
        chosen = k
      }
    })
    // What must have an exact price and has not is settled first, the row with the fewest places that can still beat
    // the best; then the coupling that is dearest beyond its bound.
    if (row === -1 && chosen !== -1) return this.splitByPrice(node, chosen)
    if (row === -1) couplings.forEach(({ a, b }) => [a, b].forEach(narrow))
    return row === -1 ? [] : this.splitByPlace(node, row)
  }

  /** The cheapest price a coupling can have, or more than that. */
  private splitByPrice(node: Open, k: number): Open[] {
    const cheapest = this.leastPrice(node, k)
    const out: Open[] = []
    const narrowed = (low: number, high: number) => {
      const child: Open = {
        assignment: node.assignment.clone(),
        low: node.low.slice(),
        high: node.high.slice(),
        bound: 0,
      }
      child.low[k] = low
      child.high[k] = high
      const open = this.judge(child)
      if (open) out.push(open)
    }
    narrowed(cheapest, cheapest)
    const next = this.leastPrice({ ...node, low: node.low.map((l, i) => (i === k ? cheapest + 1 : l)) }, k)
    if (next < NEVER) narrowed(next, node.high[k] ?? 0)
    return out
  }

  private splitByPlace(node: Open, row: number): Open[] {
    const { columns } = this.p
    const out: Open[] = []
    for (let c = 0; c < columns; c++) {
      if ((node.assignment.cost[row * columns + c] ?? NEVER) >= NEVER) continue
      if (node.bound + Math.max(0, node.assignment.reduced(row, c)) >= this.weight) continue
      const child: Open = { assignment: node.assignment.clone(), low: node.low, high: node.high, bound: 0 }
      child.assignment.fix(row, c)
      this.keepOrder(child.assignment, row, c)
      const open = this.judge(child)
      if (open) out.push(open)
    }
    return out
  }

  /** Places of a row that can still lead to something better than the best. */
  private near(node: Open, row: number): number {
    let n = 0
    const { assignment } = node
    for (let c = 0; c < this.p.columns; c++)
      if (
        (assignment.cost[row * this.p.columns + c] ?? NEVER) < NEVER &&
        node.bound + assignment.reduced(row, c) < this.weight
      )
        n += 1
    return n
  }

  private options(assignment: Assignment, row: number): number {
    let n = 0
    for (let c = 0; c < this.p.columns; c++) if ((assignment.cost[row * this.p.columns + c] ?? NEVER) < NEVER) n += 1
    return n
  }

  private leastPrice({ assignment, low, high }: Open, k: number): number {
    const { columns, couplings } = this.p
    const { a, b, table } = couplings[k] as Coupling
    let least = NEVER
    for (let p = 0; p < columns; p++) {
      if ((assignment.cost[a * columns + p] ?? NEVER) >= NEVER) continue
      for (let q = 0; q < columns; q++) {
        const t = table[p * columns + q] ?? 0
        if (
          q !== p &&
          t < least &&
          t >= (low[k] ?? 0) &&
          t <= (high[k] ?? 0) &&
          (assignment.cost[b * columns + q] ?? NEVER) < NEVER
        )
          least = t
      }
    }
    return least
  }

  /**
   * Raises every coupled row's costs to what its partner will add at least; gives the bound. What was added is
   * remembered in the costs.
   */
  private tighten({ assignment, low, high }: Open): number {
    const { rows, columns, couplings, cost } = this.p
    if (couplings.length === 0) return assignment.solve()
    const now = assignment.cost
    this.added.fill(0)
    for (let k = 0; k < couplings.length; k++) {
      const { a, b, table } = couplings[k] as Coupling
      const [rowA, rowB] = [a * columns, b * columns]
      const [from, to] = [low[k] ?? 0, high[k] ?? 0]
      const { ofA, ofB } = this.partners[k] as { ofA: Int16Array; ofB: Int16Array }
      for (let p = 0; p < columns; p++) {
        if ((now[rowA + p] ?? 0) >= NEVER) continue
        let least = NEVER
        for (let i = 0; i < columns; i++) {
          const q = ofA[p * columns + i] ?? 0
          const t = table[p * columns + q] ?? 0
          if (t > to) break
          if (t < from || q === p || (now[rowB + q] ?? 0) >= NEVER) continue
          least = t
          break
        }
        if (least >= NEVER) assignment.raise(a, p, NEVER)
        else this.added[rowA + p] = (this.added[rowA + p] ?? 0) + least
      }
      // Only one end carries a coupling's price; the other end loses what cannot be at all.
      for (let q = 0; q < columns; q++) {
        if ((now[rowB + q] ?? 0) >= NEVER) continue
        let found = false
        for (let i = 0; i < columns && !found; i++) {
          const p = ofB[q * columns + i] ?? 0
          const t = table[p * columns + q] ?? 0
          if (t > to) break
          found = t >= from && p !== q && (now[rowA + p] ?? 0) < NEVER
        }
        if (!found) assignment.raise(b, q, NEVER)
      }
    }
    for (let r = 0; r < rows; r++) {
      for (let c = 0; c < columns; c++) {
        const at = r * columns + c
        const more = this.added[at] ?? 0
        if (more > 0) assignment.raise(r, c, (cost[at] ?? 0) + more)
      }
    }
    return assignment.solve()
  }

  /** What the assignment at hand costs in truth. */
  private price(assignment: Assignment): number {
    const { rows, columns, cost, couplings } = this.p
    let total = 0
    for (let r = 0; r < rows; r++) total += cost[r * columns + (assignment.columnOf[r] ?? 0)] ?? 0
    for (const { a, b, table } of couplings)
      total += table[(assignment.columnOf[a] ?? 0) * columns + (assignment.columnOf[b] ?? 0)] ?? 0
    return Math.min(total, NEVER)
  }

  /** Of units that are alike only the order of their columns is looked at, not every exchange. */
  private keepOrder(assignment: Assignment, row: number, column: number): void {
    for (const { units } of this.p.twins) {
      const at = units.findIndex((rows) => rows[0] === row)
      if (at === -1) continue
      for (const [i, rows] of units.entries()) {
        if (i === at || rows[0] === undefined) continue
        for (let c = 0; c < this.p.columns; c++)
          if (i > at ? c < column : c > column) assignment.raise(rows[0], c, NEVER)
      }
    }
  }
}

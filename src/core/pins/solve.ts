import { Assignment, NEVER } from './lsap'

/** What two rows cost together: `table[p * columns + q]` for the first on p and the second on q; NEVER where they cannot be there together. */
export interface Coupling { a: number; b: number; table: Float64Array }

/** Rows that may change places without changing any cost: unit i of a group has its rows at `units[i]`, in the same order. */
export interface Twins { units: number[][] }

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

interface Open { assignment: Assignment; bound: number }

/**
 * The lightest assignment of rows to different columns, proven: depth-first branch and bound over the rows that are coupled; everything
 * else, and the bound at every node, is an assignment problem solved exactly. `below` prunes what an earlier solution beats already.
 * `stop` is asked now and then; when it says so the best so far is given with the bound that is left.
 */
export function solve(problem: Problem, options: { below?: number; stop?: () => boolean } = {}): Solution {
  const { rows, columns, couplings } = problem
  const root = new Assignment(rows, columns)
  for (let r = 0; r < rows; r++) for (let c = 0; c < columns; c++) root.cost[r * columns + c] = problem.cost[r * columns + c] ?? NEVER
  let best: number[] | null = null
  let weight = options.below ?? NEVER
  let explored = 0
  const stack: Open[] = []

  const enter = (assignment: Assignment): Open | null => {
    const bound = tighten(problem, assignment)
    if (bound >= weight) return null
    const { excess, broken } = price(problem, assignment)
    if (!broken && bound + excess < weight) {
      weight = bound + excess
      best = Array.from(assignment.columnOf.subarray(0, rows))
    }
    return excess === 0 && !broken ? null : { assignment, bound }
  }
  const first = enter(root)
  if (first) stack.push(first)
  while (stack.length > 0) {
    const node = stack.pop()
    if (!node || node.bound >= weight) continue
    explored += 1
    if (options.stop && explored % 64 === 0 && options.stop()) {
      return { columns: best, weight, bound: Math.min(weight, node.bound, ...stack.map((n) => n.bound)), proven: false, explored }
    }
    const row = branchRow(problem, node.assignment)
    const children: Open[] = []
    for (let c = 0; c < columns; c++) {
      if ((node.assignment.cost[row * columns + c] ?? NEVER) >= NEVER) continue
      if (node.bound + Math.max(0, node.assignment.reduced(row, c)) >= weight) continue
      const child = node.assignment.clone()
      child.fix(row, c)
      if (!keepOrder(problem, child, row, c)) continue
      const open = enter(child)
      if (open) children.push(open)
    }
    children.sort((x, y) => y.bound - x.bound)
    for (const child of children) if (child.bound < weight) stack.push(child)
  }
  return { columns: best, weight, bound: weight, proven: true, explored: Math.max(explored, 1) }

  function branchRow(p: Problem, assignment: Assignment): number {
    let worst = -1
    let row = -1
    for (const { a, b, table } of p.couplings) {
      const [pa, pb] = [assignment.columnOf[a] ?? 0, assignment.columnOf[b] ?? 0]
      const over = table[pa * columns + pb] ?? 0
      if (over === 0) continue
      const [na, nb] = [optionsOf(assignment, a), optionsOf(assignment, b)]
      if (na <= 1 && nb <= 1) continue
      if (over > worst) {
        worst = over
        row = nb <= 1 || (na > 1 && na <= nb) ? a : b
      }
    }
    if (row !== -1) return row
    // The excess stems from bounds raised at rows that are not yet settled: take any coupled row that still has a choice.
    for (const { a, b } of couplings) for (const r of [a, b]) if (optionsOf(assignment, r) > 1) return r
    return 0
  }
}

function optionsOf(assignment: Assignment, row: number): number {
  let n = 0
  for (let c = 0; c < assignment.columns; c++) if ((assignment.cost[row * assignment.columns + c] ?? NEVER) < NEVER) n += 1
  return n
}

/** Raises every coupled row's costs to what its partner will add at least; gives the bound. What was added is remembered in the costs. */
function tighten(problem: Problem, assignment: Assignment): number {
  const { columns, couplings, cost } = problem
  if (couplings.length === 0) return assignment.solve()
  const added = new Float64Array(problem.rows * columns)
  for (const { a, b, table } of couplings) {
    for (let p = 0; p < columns; p++) {
      if ((assignment.cost[a * columns + p] ?? NEVER) >= NEVER) continue
      let least = NEVER
      for (let q = 0; q < columns && least > 0; q++) {
        if (q === p || (assignment.cost[b * columns + q] ?? NEVER) >= NEVER) continue
        least = Math.min(least, table[p * columns + q] ?? 0)
      }
      if (least >= NEVER) assignment.raise(a, p, NEVER)
      else added[a * columns + p] = (added[a * columns + p] ?? 0) + least
    }
    // Only one end carries a coupling's price; the other end loses what cannot be at all.
    for (let q = 0; q < columns; q++) {
      if ((assignment.cost[b * columns + q] ?? NEVER) >= NEVER) continue
      let possible = false
      for (let p = 0; p < columns && !possible; p++) {
        possible = p !== q && (assignment.cost[a * columns + p] ?? NEVER) < NEVER && (table[p * columns + q] ?? 0) < NEVER
      }
      if (!possible) assignment.raise(b, q, NEVER)
    }
  }
  for (let r = 0; r < problem.rows; r++) {
    for (let c = 0; c < columns; c++) {
      const more = added[r * columns + c] ?? 0
      if (more > 0) assignment.raise(r, c, (cost[r * columns + c] ?? 0) + more)
    }
  }
  return assignment.solve()
}

/** What the assignment at hand costs beyond its bound, and whether it breaks a coupling altogether. */
function price({ rows, columns, cost, couplings }: Problem, assignment: Assignment): { excess: number; broken: boolean } {
  let excess = 0
  let broken = false
  for (let r = 0; r < rows; r++) {
    const c = assignment.columnOf[r] ?? 0
    excess -= (assignment.cost[r * columns + c] ?? 0) - (cost[r * columns + c] ?? 0)
  }
  for (const { a, b, table } of couplings) {
    const together = table[(assignment.columnOf[a] ?? 0) * columns + (assignment.columnOf[b] ?? 0)] ?? 0
    if (together >= NEVER) broken = true
    else excess += together
  }
  return { excess, broken }
}

/** Of units that are alike only the order of their columns is looked at, not every exchange. False when the order cannot be kept. */
function keepOrder({ columns, twins }: Problem, assignment: Assignment, row: number, column: number): boolean {
  for (const { units } of twins) {
    const at = units.findIndex((rows) => rows[0] === row)
    if (at === -1) continue
    for (const [i, rows] of units.entries()) {
      if (i === at || rows[0] === undefined) continue
      for (let c = 0; c < columns; c++) if (i > at ? c < column : c > column) assignment.raise(rows[0], c, NEVER)
    }
  }
  return true
}

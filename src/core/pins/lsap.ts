/** Forbidden. Far above every sum of weights, far below where adding integers stops being exact. */
export const NEVER = 2 ** 50

/**
 * Linear sum assignment, rows to columns, rows ≤ columns, by shortest augmenting paths with dual potentials (Jonker and
 * Volgenant 1987). Costs may only rise after a solution: duals then stay feasible, and only rows whose place became
 * dearer are assigned again. Columns nobody wants go to idle rows of cost zero, so that the problem is square and a
 * freed column needs no second look.
 */
export class Assignment {
  readonly cost: Float64Array
  private readonly u: Float64Array
  private readonly v: Float64Array
  readonly columnOf: Int16Array
  private readonly rowOf: Int16Array

  constructor(
    readonly rows: number,
    readonly columns: number,
    from?: Assignment,
  ) {
    this.cost = from ? from.cost.slice() : new Float64Array(columns * columns)
    this.u = from ? from.u.slice() : new Float64Array(columns)
    this.v = from ? from.v.slice() : new Float64Array(columns)
    this.columnOf = from ? from.columnOf.slice() : new Int16Array(columns).fill(-1)
    this.rowOf = from ? from.rowOf.slice() : new Int16Array(columns).fill(-1)
  }

  clone(): Assignment {
    return new Assignment(this.rows, this.columns, this)
  }

  /** Raises a cost. A row that sits there is taken off and assigned again by the next `solve`. */
  raise(row: number, column: number, to: number): void {
    const at = row * this.columns + column
    if (to <= (this.cost[at] ?? 0)) return
    this.cost[at] = to
    if (this.columnOf[row] === column) {
      this.columnOf[row] = -1
      this.rowOf[column] = -1
    }
  }

  /** Leaves the row one column, and the column to this row. */
  fix(row: number, column: number): void {
    for (let c = 0; c < this.columns; c++) if (c !== column) this.raise(row, c, NEVER)
    for (let r = 0; r < this.columns; r++) if (r !== row) this.raise(r, column, NEVER)
  }

  /** The least sum, or NEVER when no assignment avoids what is forbidden. */
  solve(): number {
    if (this.rows > this.columns) return NEVER
    for (let row = 0; row < this.columns; row++) {
      if (this.columnOf[row] === -1 && !this.augment(row)) return NEVER
    }
    let sum = 0
    for (let row = 0; row < this.rows; row++) sum += this.cost[row * this.columns + (this.columnOf[row] ?? 0)] ?? 0
    return sum
  }

  /** How much dearer than its dual price this place is: a lower bound on what moving the row there adds. */
  reduced(row: number, column: number): number {
    return (this.cost[row * this.columns + column] ?? 0) - (this.u[row] ?? 0) - (this.v[column] ?? 0)
  }

  private augment(start: number): boolean {
    const { columns, cost, u, v, rowOf, columnOf } = this
    const distance = new Float64Array(columns).fill(Infinity)
    const before = new Int16Array(columns).fill(-1)
    const done = new Uint8Array(columns)
    let row = start
    let least = 0
    let sink = -1
    const scanned: number[] = []
    while (sink === -1) {
      const base = row * columns
      const offset = least - (u[row] ?? 0)
      let next = -1
      let nextDistance = Infinity
      for (let c = 0; c < columns; c++) {
        if (done[c]) continue
        const price = cost[base + c] ?? NEVER
        if (price < NEVER) {
          const through = price + offset - (v[c] ?? 0)
          if (through < (distance[c] ?? 0)) {
            distance[c] = through
            before[c] = row
          }
        }
        if ((distance[c] ?? Infinity) < nextDistance) {
          nextDistance = distance[c] ?? Infinity
          next = c
        }
      }
      if (next === -1) return false
      least = nextDistance
      done[next] = 1
      scanned.push(next)
      const holder = rowOf[next] ?? -1
      if (holder === -1) sink = next
      else row = holder
    }
    u[start] = (u[start] ?? 0) + least
    for (const c of scanned) {
      if (c === sink) continue
      const holder = rowOf[c] ?? 0
      u[holder] = (u[holder] ?? 0) + least - (distance[c] ?? 0)
    }
    for (const c of scanned) v[c] = (v[c] ?? 0) - (least - (distance[c] ?? 0))
    let column = sink
    for (;;) {
      const from = before[column] ?? start
      const previous = columnOf[from] ?? -1
      columnOf[from] = column
      rowOf[column] = from
      if (from === start) return true
      column = previous
    }
  }
}

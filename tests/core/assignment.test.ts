import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { Assignment, NEVER } from '../../src/core/pins/lsap'
import { solve } from '../../src/core/pins/solve'

type Table = number[][]

/** The least sum by trying every arrangement. */
function least(table: Table, row = 0, taken: number[] = []): number {
  if (row === table.length) return 0
  return Math.min(
    NEVER,
    ...(table[row] ?? []).flatMap((cost, c) =>
      taken.includes(c) || cost >= NEVER ? [] : [cost + least(table, row + 1, [...taken, c])],
    ),
  )
}

function filled(table: Table): Assignment {
  const columns = table[0]?.length ?? 0
  const a = new Assignment(table.length, columns)
  table.forEach((row, r) =>
    row.forEach((v, c) => {
      a.cost[r * columns + c] = v
    }),
  )
  return a
}

const cell = fc.oneof({ weight: 5, arbitrary: fc.nat(30) }, { weight: 1, arbitrary: fc.constant(NEVER) })
const tables = fc
  .record({ rows: fc.integer({ min: 1, max: 5 }), more: fc.nat(2) })
  .chain(({ rows, more }) =>
    fc.array(fc.array(cell, { minLength: rows + more, maxLength: rows + more }), { minLength: rows, maxLength: rows }),
  )

describe('assignment', () => {
  test('is the least sum, and says when there is none', () => {
    fc.assert(
      fc.property(tables, (table) => {
        const a = filled(table)
        expect(a.solve()).toBe(least(table))
      }),
      { numRuns: 500 },
    )
  })

  test('stays the least after costs have risen, step by step', () => {
    const raises = fc.array(
      fc.record({ row: fc.nat(4), column: fc.nat(6), to: fc.oneof(fc.nat(60), fc.constant(NEVER)) }),
      { maxLength: 8 },
    )
    fc.assert(
      fc.property(tables, raises, (given, steps) => {
        const table = given.map((r) => [...r])
        const a = filled(table)
        a.solve()
        for (const { row, column, to } of steps) {
          const line = table[row % table.length]
          if (!line) continue
          const c = column % line.length
          if (to > (line[c] ?? 0)) line[c] = to
          a.raise(row % table.length, c, to)
          const sum = a.solve()
          expect(sum).toBe(least(table))
          // Once there is none there never will be: costs only rise.
          if (sum >= NEVER) return
        }
      }),
      { numRuns: 500 },
    )
  })

  test('fixing a row leaves the column to it alone; a copy does not feel what happens to the original', () => {
    fc.assert(
      fc.property(tables, fc.nat(4), fc.nat(6), (table, r, c) => {
        const [row, column] = [r % table.length, c % (table[0]?.length ?? 1)]
        const a = filled(table)
        const before = a.solve()
        const copy = a.clone()
        a.fix(row, column)
        const wanted = table.map((line, i) => line.map((v, k) => ((i === row) === (k === column) ? v : NEVER)))
        expect(a.solve()).toBe(least(wanted))
        expect(copy.solve()).toBe(before)
      }),
      { numRuns: 300 },
    )
  })

  test('a reduced cost is what moving there adds at least', () => {
    fc.assert(
      fc.property(tables, (table) => {
        const a = filled(table)
        const sum = a.solve()
        if (sum >= NEVER) return
        table.forEach((line, r) =>
          line.forEach((v, c) => {
            if (v >= NEVER) return
            const there = least(table.map((l, i) => l.map((x, k) => ((i === r) === (k === c) ? x : NEVER))))
            if (there < NEVER) expect(sum + a.reduced(r, c)).toBeLessThanOrEqual(there + 1e-9)
          }),
        )
      }),
      { numRuns: 200 },
    )
  })
})

describe('search with pairs', () => {
  const side = (columns: number) =>
    Float64Array.from(
      Array.from({ length: columns * columns }, (_, i) => {
        const [p, q] = [Math.floor(i / columns), i % columns]
        const half = columns / 2
        return p < half === q < half ? Number(Math.abs(p - q) !== 1) : 2
      }),
    )

  test('twins: one order of equal pairs is looked at, and the least stays the least', () => {
    const rows = fc.array(fc.nat(6), { minLength: 8, maxLength: 8 })
    fc.assert(
      fc.property(rows, rows, fc.integer({ min: 2, max: 3 }), (first, second, pairs) => {
        const columns = 8
        const cost = Float64Array.from(Array.from({ length: pairs }, () => [...first, ...second]).flat())
        const couplings = Array.from({ length: pairs }, (_, i) => ({ a: 2 * i, b: 2 * i + 1, table: side(columns) }))
        const problem = { rows: 2 * pairs, columns, cost, couplings }
        const plain = solve({ ...problem, twins: [] })
        const twins = solve({
          ...problem,
          twins: [{ units: Array.from({ length: pairs }, (_, i) => [2 * i, 2 * i + 1]) }],
        })
        expect(twins.weight).toBe(plain.weight)
        expect(twins.proven && plain.proven).toBe(true)
      }),
      { numRuns: 120 },
    )
  })

  test('a bound given from outside prunes what cannot beat it; a search that is stopped keeps a true bound', () => {
    fc.assert(
      fc.property(fc.array(fc.nat(9), { minLength: 48, maxLength: 48 }), (cost) => {
        const problem = {
          rows: 6,
          columns: 8,
          cost: Float64Array.from(cost),
          couplings: [0, 2, 4].map((a) => ({ a, b: a + 1, table: side(8) })),
          twins: [],
        }
        const whole = solve(problem)
        expect(solve(problem, { below: whole.weight }).columns).toBeNull()
        expect(solve(problem, { below: whole.weight + 1 }).weight).toBe(whole.weight)
        const cut = solve(problem, { stop: () => true })
        expect(cut.bound).toBeLessThanOrEqual(whole.weight)
        expect(cut.weight).toBeGreaterThanOrEqual(whole.weight)
      }),
      { numRuns: 150 },
    )
  })

  test('what cannot be together is never put together', () => {
    const never = Float64Array.from(
      Array.from({ length: 36 }, (_, i) => (Math.floor(i / 6) % 3 === (i % 6) % 3 ? NEVER : 0)),
    )
    fc.assert(
      fc.property(fc.array(fc.nat(9), { minLength: 24, maxLength: 24 }), (cost) => {
        const couplings = [
          [0, 1],
          [1, 2],
          [0, 2],
        ].map(([a = 0, b = 0]) => ({ a, b, table: never }))
        const { columns } = solve({ rows: 4, columns: 6, cost: Float64Array.from(cost), couplings, twins: [] })
        if (!columns) throw new Error('there is a solution')
        const kinds = columns.slice(0, 3).map((c) => c % 3)
        expect(new Set(kinds).size).toBe(3)
      }),
      { numRuns: 100 },
    )
    // Four that must all differ among three kinds: there is none.
    const all = [
      [0, 1],
      [0, 2],
      [0, 3],
      [1, 2],
      [1, 3],
      [2, 3],
    ].map(([a = 0, b = 0]) => ({ a, b, table: never }))
    expect(solve({ rows: 4, columns: 6, cost: new Float64Array(24), couplings: all, twins: [] }).columns).toBeNull()
  })
})

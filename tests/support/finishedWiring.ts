import { builtInCatalog } from '../../src/core/catalog/catalog'
import type { Design } from '../../src/core/model/design'
import { type End, endId, wiringOf } from '../../src/core/wiring/netlist'

// A walk over the finished list of wires. What parts are inside is written down here by hand, from their data sheets,
// and not taken from the catalogue.

/**
 * Terminals of a part that no current can pass between: each list is a body of its own, all other terminals are one
 * more.
 */
const APART: Record<string, string[][]> = {
  'relay-bare': [['com', 'no', 'nc']],
  'relay-module-high': [['com', 'no', 'nc']],
  'relay-module-low': [['com', 'no', 'nc']],
  'relay-module-5v-low': [['com', 'no', 'nc']],
  'motion-12v': [
    ['nc', 'c'],
    ['t1', 't2'],
  ],
  'light-barrier': [
    ['nc', 'c'],
    ['s1', 's2'],
  ],
  'optocoupler-input': [['plus', 'minus']],
  'optocoupler-output': [['plus', 'minus']],
}
/** Parts nobody has proven to be isolated from the mains. */
const UNPROVEN = ['appliance-point', 'mains-230']

const isUnproven = (design: Design, id: string): boolean => {
  const part = design.parts[id]
  const carries = part?.settings.carries
  return UNPROVEN.includes(part?.kind ?? '') || (carries !== undefined && carries !== 'nothing')
}

/**
 * Isolations of the design that the finished wires bridge, in words: parts of unproven isolation that reach the board,
 * and couplers whose sides meet.
 */
export function bridges(design: Design): string[] {
  const near = new Map<string, Set<string>>()
  const join = (a: string, b: string) => {
    near.set(a, (near.get(a) ?? new Set()).add(b))
    near.set(b, (near.get(b) ?? new Set()).add(a))
  }
  const inside = (end: End): string => {
    if (end.kind === 'pin') return 'THE BOARD'
    if (end.kind === 'part') {
      const side = (APART[design.parts[end.partId]?.kind ?? ''] ?? []).findIndex((list) => list.includes(end.terminal))
      return `in ${end.partId} ${side}`
    }
    // Legs 1 and 2 of a coupler are its lamp, 3 and 4 its transistor; everything else conducts from any leg to any
    // other.
    if (end.kind === 'leg')
      return `in ${end.componentId} ${design.added[end.componentId]?.type === 'optocoupler' && '34'.includes(end.leg) ? 'transistor' : ''}`
    return endId(end)
  }
  for (const w of wiringOf(design, builtInCatalog).wires) {
    join(endId(w.from), endId(w.to))
    for (const end of [w.from, w.to]) join(endId(end), inside(end))
  }
  const reached = (from: string): Set<string> => {
    const seen = new Set([from])
    for (const at of seen) for (const next of near.get(at) ?? []) seen.add(next)
    return seen
  }
  const board = reached('THE BOARD')
  const parts = Object.keys(design.parts).filter(
    (id) => isUnproven(design, id) && [...board].some((n) => n.startsWith(`in ${id} `)),
  )
  const couplers = Object.entries(design.added).flatMap(([id, c]) =>
    c.type === 'optocoupler' && near.has(`in ${id} `) && reached(`in ${id} `).has(`in ${id} transistor`)
      ? [c.line.split('.')[0] ?? '']
      : [],
  )
  return [...parts.map((p) => `${p} reaches the board`), ...couplers.map((p) => `the coupler of ${p} is bridged`)]
}

/** What the world does between a line and its part's return: a voltage behind a resistance, or a resistor. */
export type Truth = { volts: number; ohm: number } | { ohm: number }

/**
 * The voltage at the end of a line (pin, or input of a converter), solved from the finished wires: V = G⁻¹·I over all
 * nodes. Volts, ohms.
 */
export function voltageAtEnd(
  design: Design,
  partId: string,
  terminal: string,
  back: string,
  truth: Truth,
  supplyV = 3.3,
): number {
  const { wires } = wiringOf(design, builtInCatalog)
  const parent = new Map<string, string>()
  const root = (n: string): string => {
    const up = parent.get(n)
    return up === undefined || up === n ? n : root(up)
  }
  for (const w of wires) parent.set(root(endId(w.from)), root(endId(w.to)))
  const resistors: [string, string, number][] = []
  const leg = (id: string, l: string) => root(`leg:${id}.${l}`)
  const between = (id: string, ohm: number) => resistors.push([leg(id, 'a'), leg(id, 'b'), ohm])
  for (const [id, c] of Object.entries(design.added)) {
    if (c.type === 'divider') {
      between(`${id}t`, c.topOhm)
      between(`${id}b`, c.bottomOhm)
    }
    if (c.type === 'pull' || c.type === 'series' || c.type === 'burden') between(id, c.ohm)
    if (c.type === 'bias') {
      between(`${id}t`, c.topOhm)
      between(`${id}b`, c.bottomOhm)
    }
  }
  const start = `part:${partId}.${terminal}`
  const line = `${partId}.${terminal}`
  const end = wires.find(
    (w) => w.line === line && (w.to.kind === 'pin' || (w.to.kind === 'part' && w.to.partId !== partId)),
  )
  if (!end) throw new Error(`${line} ends nowhere`)
  const ground = root('rail:GND')
  const fixed = new Map([
    [root('rail:3V3'), supplyV],
    [ground, 0],
  ])
  if ('volts' in truth) {
    fixed.set('the source', truth.volts)
    resistors.push(['the source', root(start), Math.max(truth.ohm, 0.001)])
  } else resistors.push([root(start), root(`part:${partId}.${back}`), truth.ohm])
  // On board: 220 kΩ and 100 kΩ behind A0. On the converter: 6 MΩ to ground.
  if (end.to.kind === 'pin' && end.to.label === 'A0') resistors.push([root(endId(end.to)), ground, 320_000])
  if (end.to.kind === 'part') resistors.push([root(endId(end.to)), ground, 6_000_000])
  // Only what is joined to the line: resistors elsewhere may float.
  const near = new Set([root(start)])
  for (const n of near)
    if (!fixed.has(n))
      for (const [a, b] of resistors)
        for (const [x, y] of [
          [a, b],
          [b, a],
        ] as const)
          if (x === n) near.add(y)
  const nodes = [...near].filter((n) => !fixed.has(n))
  const g = nodes.map(() => new Array<number>(nodes.length + 1).fill(0))
  for (const [a, b, ohm] of resistors) {
    for (const [x, y] of [
      [a, b],
      [b, a],
    ] as const) {
      const i = nodes.indexOf(x)
      const row = g[i]
      if (!row) continue
      row[i] = (row[i] ?? 0) + 1 / ohm
      const v = fixed.get(y)
      if (v !== undefined) row[nodes.length] = (row[nodes.length] ?? 0) + v / ohm
      else row[nodes.indexOf(y)] = (row[nodes.indexOf(y)] ?? 0) - 1 / ohm
    }
  }
  const v = solved(g)
  const at = root(endId(end.to))
  return fixed.get(at) ?? v[nodes.indexOf(at)] ?? NaN
}

/** Gaussian elimination with row pivots. */
function solved(m: number[][]): number[] {
  const n = m.length
  for (let c = 0; c < n; c++) {
    const pivot = m
      .slice(c)
      .reduce((best, row, i) => (Math.abs(row[c] ?? 0) > Math.abs(m[best]?.[c] ?? 0) ? c + i : best), c)
    const swapped = m[pivot] as number[]
    m[pivot] = m[c] as number[]
    m[c] = swapped
    for (let r = 0; r < n; r++) {
      const row = m[r] as number[]
      const f = r === c ? 0 : (row[c] ?? 0) / (swapped[c] ?? 1)
      if (f !== 0) for (let k = c; k <= n; k++) row[k] = (row[k] ?? 0) - f * (swapped[k] ?? 0)
    }
  }
  return m.map((row, i) => (row[n] ?? 0) / (row[i] ?? 1))
}

import fs from 'node:fs'
import loadHighs from 'highs'
import { type BoardPin, pinsOf } from '../src/core/catalog/board'
import { type Design, designSchema } from '../src/core/model/design'
import { couplingsOf } from '../src/core/pins/couplings'
import { judgePin } from '../src/core/pins/judgePin'
import { planLines } from '../src/core/lines/lines'
import { NEVER } from '../src/core/pins/lsap'
import { type PinPlan, planPins } from '../src/core/pins/planPins'
import { busVariants, inVariant, shortage } from '../src/core/pins/resources'
import { after, addParts, blank, catalog } from '../tests/support/designs'
import { mipPlan } from '../tests/support/mipPlan'
import { randomDesign, seeded } from '../tests/support/randomDesigns'

type Row = [string, string, string]

/**
 * Speed of the pin planner on the demo and on full boards, and its optimum against a mixed-integer program and against
 * trying everything.
 */
export async function plans(count = 200): Promise<Row[]> {
  return [...demoNodes(), ...fullBoards(), ...(await secondOpinions(count))]
}

function timed(design: Design, past: 'kept' | 'afresh' = 'afresh'): { ms: number; plan: PinPlan } {
  const began = performance.now()
  const plan = planPins(design, catalog, { past })
  return { ms: performance.now() - began, plan }
}

function demoNodes(): Row[] {
  return fs
    .readdirSync('demo/designs')
    .sort()
    .map((name): Row => {
      const design = designSchema.parse(JSON.parse(fs.readFileSync(`demo/designs/${name}`, 'utf8')))
      const { ms, plan } = timed({ ...design, plan: { pins: {}, basis: '' } })
      return [`plan of ${design.slug}, first time`, `${ms.toFixed(1)} ms, ${plan.explored} nodes`, '≤ 30 ms']
    })
}

/** The same design with its parts in another order. */
function shuffled(design: Design, random: () => number): Design {
  const orders = Object.keys(design.parts)
    .map((id) => ({ id, at: random() }))
    .sort((a, b) => a.at - b.at)
  const order = new Map(orders.map((o, i) => [o.id, i]))
  return {
    ...design,
    parts: Object.fromEntries(Object.entries(design.parts).map(([id, p]) => [id, { ...p, order: order.get(id) ?? 0 }])),
    plan: { pins: {}, basis: '' },
  }
}

export const FULL: Record<string, { board: string; kinds: string[] }> = {
  '12 lines on the 8266-class': {
    board: 'board-8266-16',
    kinds: [
      'thermistor',
      'climate-i2c-two',
      'button-ground',
      'relay-module-high',
      'thermometer-one-wire',
      'motion-module',
      'led-pwm',
      'relay-module-low',
      'sounder',
      'led-pwm',
      'led-pwm',
    ],
  },
  '24 lines on the 32-class': {
    board: 'board-32-30',
    kinds: [
      'climate-i2c-two',
      'ranger-echo',
      'ranger-echo',
      'thermocouple-spi',
      'presence-radar',
      'strip-two-white',
      'encoder-push',
      'relay-module-low',
      'fet-stage',
      'thermometer-one-wire',
      'light-resistor',
      'button-ground',
      'button-ground',
      'servo',
      'contact-reed',
    ],
  },
  '21 buttons on the 32-class': { board: 'board-32-30', kinds: Array.from({ length: 21 }, () => 'button-ground') },
  '24 lines on the RP2040': {
    board: 'board-rp2040-40',
    kinds: [
      'climate-i2c-two',
      'thermocouple-spi',
      'presence-radar',
      'strip-two-white',
      'encoder-push',
      'motor-driver',
      'servo',
      'fet-stage',
      'led-pwm',
      'ranger-echo',
      'thermistor',
      'button-ground',
      'button-ground',
      'contact-reed',
      'relay-module-high',
    ],
  },
}

function fullBoards(): Row[] {
  return Object.entries(FULL).map(([name, { board, kinds }]): Row => {
    const design = after(blank(board), ...addParts(kinds))
    const lines = planLines(design, catalog).length
    const random = seeded(7)
    const runs = Array.from({ length: 20 }, () => timed(shuffled(design, random)))
    const costs = new Set(
      runs.map((r) => (r.plan.kind === 'planned' && r.plan.proven ? r.plan.price.cost : r.plan.kind)),
    )
    const worst = Math.max(...runs.map((r) => r.ms))
    return [
      `plan of ${name} (${lines} lines), worst of 20 shufflings`,
      `${worst.toFixed(0)} ms, ${Math.max(...runs.map((r) => r.plan.explored))} nodes, cost ${[...costs].join(' / ')}`,
      '≤ 250 ms',
    ]
  })
}

/** Least weight by trying everything; only for few lines. */
export function bruteForce(design: Design): number {
  const board = catalog.boards[design.board.id]
  const lines = planLines(design, catalog)
  if (!board || shortage(board, lines)) return NEVER
  const pins = pinsOf(board)
  const couplings = couplingsOf(board, lines, 1)
  const price = lines.map((line) =>
    pins.map((pin) => {
      const lock = design.locks[line.key]
      if (lock !== undefined ? lock !== pin.label : design.keptFree[pin.label]) return NEVER
      const verdict = judgePin(board, pin, line)
      const before = design.plan.pins[line.key]
      return verdict.fits ? verdict.cost + (before !== undefined && before !== pin.label ? 10_000 : 0) : NEVER
    }),
  )
  let least = NEVER
  for (const variant of busVariants(board, lines)) {
    const own = price.map((row, l) =>
      row
        .map((v, p) => ({ v, p }))
        .filter(({ v, p }) => v < NEVER && inVariant(variant, lines[l], pins[p] as BoardPin))
        .sort((x, y) => x.v - y.v),
    )
    const rest = own.map((_, l) => own.slice(l).reduce((sum, row) => sum + (row[0]?.v ?? NEVER), 0))
    const at: number[] = []
    const go = (l: number, sum: number): void => {
      if (l === lines.length) {
        least = Math.min(least, sum)
        return
      }
      for (const { v, p } of own[l] ?? []) {
        // Nothing that follows can be cheaper than the least each remaining line costs by itself.
        if (sum + v + (rest[l + 1] ?? 0) >= least) break
        if (at.includes(p)) continue
        let pair = 0
        for (const { a, b, table } of couplings) if (b === l) pair += table[(at[a] ?? 0) * pins.length + p] ?? 0
        if (pair >= NEVER) continue
        at.push(p)
        go(l + 1, sum + v + pair)
        at.pop()
      }
    }
    go(0, 0)
  }
  return least
}

export function weightOf(plan: PinPlan): number {
  return plan.kind === 'planned' ? plan.price.moved * 10_000 + plan.price.cost : NEVER
}

async function secondOpinions(count: number): Promise<Row[]> {
  const highs = await loadHighs()
  const random = seeded(20261125)
  let [agree, feasible, tried, triedAgree] = [0, 0, 0, 0]
  let [oursMs, theirsMs] = [0, 0]
  let nodes = 0
  for (let i = 0; i < count; i++) {
    const design = randomDesign(random, 7)
    let began = performance.now()
    const plan = planPins(design, catalog, { past: 'kept', conflicts: 'unsaid' })
    oursMs += performance.now() - began
    nodes += plan.explored
    const ours = weightOf(plan)
    began = performance.now()
    const text = mipPlan(design, catalog)
    const answer = text === null ? null : highs.solve(text, { mip_rel_gap: 0, mip_abs_gap: 0.5, time_limit: 60 })
    theirsMs += performance.now() - began
    const theirs = answer?.Status === 'Optimal' ? Math.round(answer.ObjectiveValue) : NEVER
    if (ours < NEVER) feasible += 1
    if (ours === theirs) agree += 1
    else
      console.error(
        `design ${i} on ${design.board.id}: ours ${ours}, theirs ${theirs} (${answer?.Status ?? 'counted out'})`,
        Object.values(design.parts)
          .map((p) => p.kind)
          .join(' '),
      )
    if (planLines(design, catalog).length <= 7) {
      tried += 1
      if (bruteForce(design) === ours) triedAgree += 1
    }
  }
  return [
    [
      `same optimum as a mixed-integer program, ${count} random designs`,
      `${agree} agree, ${feasible} feasible; ${nodes} nodes explored`,
      `${count} agree`,
    ],
    ['same optimum as trying everything, at most 7 lines', `${triedAgree} of ${tried} agree`, `${tried} agree`],
    [
      'time of the mixed-integer program : ours',
      `${theirsMs.toFixed(0)} ms : ${oursMs.toFixed(0)} ms = ${(theirsMs / oursMs).toFixed(1)}`,
      '',
    ],
  ]
}

import { type Board, pinByLabel, pinsOf } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import { applyEdit } from '../edits/apply'
import type { Design } from '../model/design'
import { judgePin } from '../pins/judgePin'
import { planLines } from '../lines/lines'
import { planPins, type PlanOptions } from '../pins/planPins'

export interface RankedBoard {
  board: string
  name: string
  carries: boolean
  /** What the pins cost at the least; an upper bound where the search was stopped before it was proven. */
  cost: number
  proven: boolean
  /** Pins that stay free, and how many of them can measure a voltage. */
  free: number
  freeAnalog: number
  /** What gets awkward, worst first; for a board that cannot, why. */
  awkward: string[]
}

/** One board for this design, as though it were begun on it; resistors the design has added stay. */
export function rankBoard(design: Design, catalog: Catalog, board: Board, stop?: PlanOptions['stop']): RankedBoard {
  const chosen = applyEdit(design, { kind: 'choose-board', board: board.id }, catalog)
  const base = { board: board.id, name: board.name, free: 0, freeAnalog: 0 }
  if (!chosen.ok) return { ...base, carries: false, cost: Infinity, proven: true, awkward: [chosen.reason] }
  const on = { ...chosen.design, plan: { pins: {}, basis: '' } }
  const plan = planPins(on, catalog, { past: 'afresh', stop })
  if (plan.kind === 'stopped')
    return { ...base, carries: false, cost: Infinity, proven: false, awkward: ['stopped before a plan was found'] }
  if (plan.kind === 'impossible')
    return { ...base, carries: false, cost: Infinity, proven: true, awkward: plan.conflicts.map((c) => c.words) }
  const used = new Set(Object.values(plan.pins))
  const free = pinsOf(board).filter((p) => !used.has(p.label))
  const weighs = planLines(on, catalog).flatMap((line) => {
    const pin = pinByLabel(board, plan.pins[line.key] ?? '')
    const verdict = pin && judgePin(board, pin, line)
    return verdict?.fits
      ? verdict.weighs.map((w) => ({
          cost: w.cost,
          words: `${line.part.label} ${line.terminal.label} on ${pin?.label}: ${w.why}`,
        }))
      : []
  })
  return {
    ...base,
    carries: true,
    cost: plan.price.cost,
    proven: plan.proven,
    free: free.length,
    freeAnalog: free.filter((p) => p.functions.includes('adc1')).length,
    awkward: weighs
      .filter((w) => w.cost >= 5)
      .sort((a, b) => b.cost - a.cost)
      .map((w) => w.words),
  }
}

/** Those that carry it first, least cost first, then most pins free. */
export function inRank(ranked: readonly RankedBoard[]): RankedBoard[] {
  return [...ranked].sort((a, b) => Number(b.carries) - Number(a.carries) || a.cost - b.cost || b.free - a.free)
}

/** Every board of the catalogue for this design. `stop` makes one stop for each board. */
export function rankBoards(design: Design, catalog: Catalog, stop?: () => PlanOptions['stop']): RankedBoard[] {
  return inRank(Object.values(catalog.boards).map((board) => rankBoard(design, catalog, board, stop?.())))
}

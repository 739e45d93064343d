import { pinByLabel, pinsOf } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import { applyEdit } from '../design/apply'
import type { Design } from '../design/design'
import { judgePin } from './judgePin'
import { planLines } from './lines'
import { planPins } from './planPins'

export interface RankedBoard {
  board: string
  name: string
  carries: boolean
  /** What the pins cost at the least. */
  cost: number
  /** Pins that stay free, and how many of them can measure a voltage. */
  free: number
  freeAnalog: number
  /** What gets awkward, worst first; for a board that cannot, why. */
  awkward: string[]
}

/** Every board of the catalogue for this design, as though it were begun on it: those that carry it first, least cost first. */
export function rankBoards(design: Design, catalog: Catalog, stop?: () => boolean): RankedBoard[] {
  return Object.values(catalog.boards).map((board): RankedBoard => {
    const bare = { ...design, wires: {}, added: {} }
    const chosen = applyEdit(bare, { kind: 'choose-board', board: board.id }, catalog)
    const on = chosen.ok ? { ...chosen.design, plan: { pins: {}, basis: '' } } : bare
    const plan = planPins(on, catalog, { past: 'afresh', stop })
    const base = { board: board.id, name: board.name, free: 0, freeAnalog: 0 }
    if (plan.kind !== 'planned') return { ...base, carries: false, cost: Infinity, awkward: plan.kind === 'impossible' ? plan.conflicts.map((c) => c.words) : ['stopped before it was known'] }
    const used = new Set(Object.values(plan.pins))
    const free = pinsOf(board).filter((p) => !used.has(p.label))
    const weighs = planLines(on, catalog).flatMap((line) => {
      const pin = pinByLabel(board, plan.pins[line.key] ?? '')
      const verdict = pin && judgePin(board, pin, line)
      return verdict?.fits ? verdict.weighs.map((w) => ({ cost: w.cost, words: `${line.part.label} ${line.terminal.label} on ${pin?.label}: ${w.why}` })) : []
    })
    return {
      ...base, carries: true, cost: plan.price.cost, free: free.length, freeAnalog: free.filter((p) => p.functions.includes('adc1')).length,
      awkward: weighs.filter((w) => w.cost >= 5).sort((a, b) => b.cost - a.cost).map((w) => w.words),
    }
  }).sort((a, b) => Number(b.carries) - Number(a.carries) || a.cost - b.cost || b.free - a.free)
}

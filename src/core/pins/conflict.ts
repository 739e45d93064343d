import type { Board } from '../catalog/board'
import type { Design, LineKey } from '../design/design'
import { lineName, type PlanLine } from './lines'
import { allowedPins, solve } from './planPins'

export type ConflictMember =
  | { kind: 'line'; line: LineKey; words: string }
  | { kind: 'lock'; line: LineKey; pin: string; words: string }
  | { kind: 'kept-free'; pin: string; words: string }

/** Wishes that cannot be met together. Irreducible: without any one of them the rest can be planned. */
export interface Conflict { members: ConflictMember[] }

/** Finds one irreducible conflict by dropping wishes one at a time and keeping those whose absence frees the rest. */
export function findConflict(design: Design, board: Board, lines: PlanLine[]): Conflict {
  let members = wishMembers(design, lines)
  for (const member of members) {
    const without = members.filter((m) => m !== member)
    if (!feasible(without, board, lines)) members = without
  }
  return { members }
}

function wishMembers(design: Design, lines: PlanLine[]): ConflictMember[] {
  const byKey = new Map(lines.map((l) => [l.key, l]))
  const locks = Object.entries(design.locks).flatMap(([line, pin]): ConflictMember[] => {
    const of = byKey.get(line)
    return of ? [{ kind: 'lock', line, pin, words: `${lineName(of)} is locked to ${pin}` }] : []
  })
  const free = Object.keys(design.keptFree).map((pin): ConflictMember => ({ kind: 'kept-free', pin, words: `${pin} is kept free` }))
  const wanted = lines.map((l): ConflictMember => ({ kind: 'line', line: l.key, words: `${lineName(l)} needs a pin` }))
  // Locks first: they are the easiest to give up, so they are dropped from the conflict first when they do not matter.
  return [...free, ...locks, ...wanted]
}

function feasible(members: ConflictMember[], board: Board, lines: PlanLine[]): boolean {
  const wanted = new Set(members.flatMap((m) => (m.kind === 'line' ? [m.line] : [])))
  const locks = Object.fromEntries(members.flatMap((m) => (m.kind === 'lock' ? [[m.line, m.pin]] : [])))
  const keptFree = Object.fromEntries(members.flatMap((m) => (m.kind === 'kept-free' ? [[m.pin, true as const]] : [])))
  const wishes = lines.filter((l) => wanted.has(l.key)).map((line) => ({
    line: line.key,
    options: allowedPins({ locks, keptFree }, board, line).map(({ pin }) => ({ pin: pin.label, weight: 0 })),
  }))
  return solve(wishes).best !== null
}

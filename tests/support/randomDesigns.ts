import { pinsOf } from '../../src/core/catalog/board'
import type { Design } from '../../src/core/model/design'
import { applyEdit } from '../../src/core/edits/apply'
import type { EditBody } from '../../src/core/edits/edit'
import { linesOf } from '../../src/core/catalog/part'
import { planLines } from '../../src/core/lines/lines'
import { blank, catalog } from './designs'

/**
 * Numbers in [0, 1) that are the same for the same seed: a linear congruential generator (Numerical Recipes'
 * constants).
 */
export function seeded(seed: number): () => number {
  let s = seed >>> 0
  return () => {
    s = (Math.imul(s, 1664525) + 1013904223) >>> 0
    return s / 2 ** 32
  }
}

const KINDS = Object.values(catalog.parts)
  .filter((k) => linesOf(k).length > 0)
  .map((k) => k.id)

/**
 * A design of random parts with locks, pins kept free, sleep and second buses, feasible or not. Nothing in it is
 * planned yet.
 */
export function randomDesign(random: () => number, most: number): Design {
  const one = <T>(values: readonly T[]): T => values[Math.floor(random() * values.length)] as T
  let design = blank(one(Object.keys(catalog.boards)))
  const board = catalog.boards[design.board.id]
  if (!board) throw new Error('no board')
  const labels = pinsOf(board).map((p) => p.label)
  const edits: EditBody[] = []
  if (random() < 0.3) edits.push({ kind: 'sleep', everyS: 600 })
  const n = 1 + Math.floor(random() * most)
  for (let i = 0; i < n; i++)
    edits.push({ kind: 'add-part', partId: `p${i}a`, part: one(KINDS), label: `P${i}`, signals: [] })
  for (let i = 0; i < n; i++) {
    if (random() < 0.15) edits.push({ kind: 'set-bus', partId: `p${i}a`, bus: one(['a', 'b', 'own']) })
    if (random() < 0.15) edits.push({ kind: 'set-part', partId: `p${i}a`, setting: 'wakes', value: 'yes' })
  }
  for (let i = 0; i < 3; i++) if (random() < 0.4) edits.push({ kind: 'keep-free', pin: one(labels), free: true })
  for (const edit of edits) {
    const applied = applyEdit(design, edit, catalog)
    if (applied.ok) design = applied.design
  }
  const lines = planLines(design, catalog)
  if (random() < 0.4 && lines.length > 0) {
    const applied = applyEdit(design, { kind: 'lock', line: one(lines).key, pin: one(labels) }, catalog)
    if (applied.ok) design = applied.design
  }
  // Some have a past: part of a plan that stands.
  const past = random() < 0.4 ? Object.fromEntries(Object.entries(design.plan.pins).filter(() => random() < 0.6)) : {}
  return { ...design, plan: { pins: past, basis: '' }, wires: {} }
}

/** The same with everything its parts can make known as signals, but what an edit refuses. */
export function withAllSignals(design: Design): Design {
  let now = design
  let n = 0
  for (const [partId, part] of Object.entries(design.parts))
    for (const channel of catalog.parts[part.kind]?.channels ?? []) {
      const applied = applyEdit(
        now,
        { kind: 'add-signal', partId, signal: { id: `n${n++}`, channel: channel.id } },
        catalog,
      )
      if (applied.ok) now = applied.design
    }
  return now
}

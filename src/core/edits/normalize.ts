import { airSourceOf } from '../model/airSource'
import type { Catalog } from '../catalog/catalog'
import { sha256Hex } from '../hash/sha256Hex'
import { canonicalJson } from '../hash/canonicalJson'
import { alike, PROPOSED } from '../palette/insulation'
import { INSULATION } from '../palette/palette'
import { afterRounds, EDIT_ROUNDS } from '../pins/afterRounds'
import { allLines, planLines } from '../lines/lines'
import { planPins } from '../pins/planPins'
import { railsOf } from '../power/rails'
import { WEIGHTS } from '../pins/weights'
import { type Wire, wiringOf } from '../wiring/netlist'
import type { Design, DesignGuard, DesignWire, LineKey, Signal } from '../model/design'
import type { DesignGroup } from '../model/group'

/**
 * What every edit brings along by itself: lines never planned take their pin when no planned line has to move for it,
 * pins of lines that are gone are given back, and every wire that has no number yet gets the next one.
 */
export function normalize(design: Design, catalog: Catalog): Design {
  return numberWires(planNewLines(forgetGoneLines(forgetGoneSignals(design), catalog), catalog), catalog)
}

/** Proposed insulation of the common rails: each looks different from the next. */
const SUPPLY_INSULATION: Record<string, string> = { '3V3': 'orange', '5V': 'red', '+12V': 'yellow', 'AUX +': 'yellow' }

function sharedInsulation(wire: Wire): string {
  if (wire.mains) return wire.carries === 'ground' || /^(0V|N$|A2|−)/.test(wire.tag) ? 'blue' : 'brown'
  if (wire.carries === 'load' && /^(0V|−|A2|~ 2)/.test(wire.tag)) return 'black'
  return SUPPLY_INSULATION[wire.tag] ?? (wire.carries === 'ground' ? 'black' : 'red')
}

/** States made of it, rules, guards and power-up states that speak of a signal that is gone go with it. */
function forgetGoneSignals(all: Design): Design {
  const made = (s: Signal) => s.of === null || Object.hasOwn(all.signals, s.of)
  const kept = Object.entries(all.signals).filter(([, s]) => made(s))
  const design = { ...all, signals: Object.fromEntries(kept) }
  const here = (id: string) => Object.hasOwn(design.signals, id)
  const heard = (from: string) => here(from) || airSourceOf(from) !== null
  const rules = Object.fromEntries(Object.entries(design.rules).filter(([, r]) => heard(r.from) && here(r.to)))
  const guards = Object.fromEntries(
    Object.entries(design.guards).flatMap(([id, g]): [string, DesignGuard][] => {
      if (g.kind === 'needs') return here(g.output) && here(g.input) ? [[id, g]] : []
      const of = g.of.filter(here)
      return of.length >= 2 ? [[id, { ...g, of }]] : []
    }),
  )
  const groups = Object.fromEntries(
    Object.entries(design.groups).flatMap(([id, g]): [string, DesignGroup][] => {
      const roles = Object.fromEntries(Object.entries(g.roles).filter(([, signal]) => here(signal)))
      return Object.keys(roles).length >= 2 ? [[id, { ...g, roles }]] : []
    }),
  )
  const signals = Object.fromEntries(
    Object.entries(design.signals).map(([id, s]) => {
      const { follows } = s.conditioning
      return [
        id,
        follows === null || here(follows)
          ? s
          : { ...s, conditioning: { ...s.conditioning, follows: null, atStart: 'off' as const } },
      ]
    }),
  )
  return { ...design, rules, guards, groups, signals }
}

function forgetGoneLines(design: Design, catalog: Catalog): Design {
  const keys = new Set(allLines(design, catalog).map((l) => l.key))
  const board = catalog.boards[design.board.id]
  const rails = new Set(board ? railsOf(design, board, catalog).map((r) => r.id) : [])
  const planned = new Set(planLines(design, catalog).map((l) => l.key))
  const keepPlanned = <T>(items: Record<string, T>) =>
    Object.fromEntries(Object.entries(items).filter(([line]) => planned.has(line)))
  return {
    ...design,
    plan: { ...design.plan, pins: keepPlanned(design.plan.pins) },
    locks: keepPlanned(design.locks),
    added: Object.fromEntries(
      Object.entries(design.added).filter(([, c]) => {
        if ('line' in c) return keys.has(c.line)
        if ('rail' in c) return rails.has(c.rail)
        return Object.hasOwn(design.parts, c.part)
      }),
    ),
    boardFeed: design.boardFeed !== null && rails.has(design.boardFeed) ? design.boardFeed : null,
  }
}

function planNewLines(design: Design, catalog: Catalog): Design {
  const lines = planLines(design, catalog)
  const fresh = lines.filter((l) => design.plan.pins[l.key] === undefined)
  if (fresh.length === 0) return design
  const plan = (only?: ReadonlySet<LineKey>) => {
    const found = planPins(design, catalog, { past: 'kept', only, conflicts: 'unsaid', stop: afterRounds(EDIT_ROUNDS) })
    return found.kind === 'planned' && found.moves.length === 0 ? found.pins : null
  }
  // All of them if that can be; otherwise each that can, one after the other.
  let pins = plan()
  if (!pins) {
    const placed = new Set(lines.filter((l) => !fresh.includes(l)).map((l) => l.key))
    const room = catalog.boards[design.board.id]?.positions.filter((p) => p.kind === 'pin').length ?? 0
    if (lines.length > room) {
      // A crowded board: as many as it has pins, all at once if that can be.
      const few = fresh.slice(0, Math.max(0, room - placed.size)).map((l) => l.key)
      pins = few.length > 0 ? plan(new Set([...placed, ...few])) : null
      if (pins) for (const key of few) placed.add(key)
    }
    for (const line of fresh) {
      if (placed.size >= room) break
      const found = plan(new Set([...placed, line.key]))
      if (!found) continue
      pins = found
      placed.add(line.key)
    }
  }
  return pins ? { ...design, plan: { pins, basis: planBasis(design, catalog) } } : design
}

/** Hash of the catalogue entry and the weights a plan was made with: says later that they have changed since. */
export function planBasis(design: Design, catalog: Catalog): string {
  return sha256Hex(canonicalJson([catalog.boards[design.board.id], WEIGHTS])).slice(0, 16)
}

/**
 * A design kept by an earlier release, with the wires this one draws; untouched while something of it is not on the
 * shelf.
 */
export function withWiresOf(design: Design, catalog: Catalog): Design {
  return catalog.boards[design.board.id] && Object.values(design.parts).every((p) => catalog.parts[p.kind])
    ? numberWires(design, catalog)
    : design
}

/** The part a wire belongs to; empty for one between rails. */
const partOf = (wire: Wire) => [wire.from, wire.to].flatMap((e) => (e.kind === 'part' ? [e.partId] : []))[0] ?? ''

/** Colours that are taken at each part, by what is stored and what shared wires always have. */
function takenColours({ wires: stored }: Design, wires: readonly Wire[]): Map<string, string[]> {
  const taken = new Map<string, string[]>()
  for (const wire of wires) {
    const shared = wire.carries === 'signal' ? undefined : sharedInsulation(wire)
    const insulation = stored[wire.key]?.insulation ?? shared
    if (insulation !== undefined) taken.set(partOf(wire), [...(taken.get(partOf(wire)) ?? []), insulation])
  }
  return taken
}

/** The colour of its signal, or the first that is not at this part yet. */
function signalColour({ signals }: Design, wire: Wire, used: readonly string[]): string {
  const signal = wire.signalId === null ? undefined : signals[wire.signalId]
  const usual = signal ? (INSULATION[signal.hue] ?? 'white') : PROPOSED[0]
  if (partOf(wire) === '') return usual
  return [usual, ...PROPOSED].find((c) => !used.some((u) => alike(u, c))) ?? usual
}

function gaugeMm2(wire: Wire): number {
  if (wire.mains) return 1.5
  return wire.carries === 'signal' ? 0.22 : 0.5
}

function numberWires(design: Design, catalog: Catalog): Design {
  const { wires } = wiringOf(design, catalog)
  const out: Record<string, DesignWire> = {}
  let next = Math.max(0, ...Object.values(design.wires).map((w) => w.number)) + 1
  const taken = takenColours(design, wires)
  for (const wire of wires) {
    const stored = design.wires[wire.key]
    const used = taken.get(partOf(wire)) ?? []
    const insulation = wire.carries === 'signal' ? signalColour(design, wire, used) : sharedInsulation(wire)
    out[wire.key] = stored ?? { number: next++, made: false, gaugeMm2: gaugeMm2(wire), insulation }
    if (!stored && wire.carries === 'signal') taken.set(partOf(wire), [...used, insulation])
  }
  for (const [key, wire] of Object.entries(design.wires)) {
    // A wire that was made exists on the bench even when the design no longer wants it.
    if (!(key in out) && wire.made) out[key] = wire
  }
  return { ...design, wires: out }
}

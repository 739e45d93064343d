import type { Catalog } from '../catalog/catalog'
import { sha256Hex } from '../hash/sha256Hex'
import { canonicalJson } from '../hash/canonicalJson'
import { INSULATION } from '../palette/palette'
import { afterRounds, EDIT_ROUNDS } from '../pins/afterRounds'
import { planLines } from '../pins/lines'
import { planPins } from '../pins/planPins'
import { WEIGHTS } from '../pins/weights'
import { wiringOf } from '../wiring/netlist'
import type { Design, DesignWire, LineKey } from './design'

/**
 * What every edit brings along by itself: lines never planned take their pin when no planned line has to move for it,
 * pins of lines that are gone are given back, and every wire that has no number yet gets the next one.
 */
export function settle(design: Design, catalog: Catalog): Design {
  return numberWires(planNewLines(forgetGoneLines(design, catalog), catalog), catalog)
}

function forgetGoneLines(design: Design, catalog: Catalog): Design {
  const keys = new Set(planLines(design, catalog).map((l) => l.key))
  const keep = <T>(items: Record<string, T>) => Object.fromEntries(Object.entries(items).filter(([line]) => keys.has(line)))
  return {
    ...design,
    plan: { ...design.plan, pins: keep(design.plan.pins) },
    locks: keep(design.locks),
    added: Object.fromEntries(Object.entries(design.added).filter(([, c]) => keys.has(c.line))),
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
    for (const line of fresh) {
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

function numberWires(design: Design, catalog: Catalog): Design {
  const { wires } = wiringOf(design, catalog)
  const out: Record<string, DesignWire> = {}
  let next = Math.max(0, ...Object.values(design.wires).map((w) => w.number)) + 1
  for (const wire of wires) {
    const stored = design.wires[wire.key]
    const signal = wire.signalId === null ? undefined : design.signals[wire.signalId]
    out[wire.key] = stored ?? {
      number: next++, made: false, gaugeMm2: 0.22,
      insulation: signal ? INSULATION[signal.hue] ?? 'white' : wire.tag === 'GND' ? 'black' : wire.tag === '5V' ? 'red' : 'orange',
    }
  }
  for (const [key, wire] of Object.entries(design.wires)) {
    // A wire that was made exists on the bench even when the design no longer wants it.
    if (!(key in out) && wire.made) out[key] = wire
  }
  return { ...design, wires: out }
}

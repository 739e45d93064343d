import type { Board } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import { type Design, inOrder, lineKeyOf } from '../design/design'
import { pinOf, planKey, planLines } from '../pins/lines'
import { ohms } from '../units/format'
import { lineTag, netOf, type Wire, type Wiring } from './netlist'

/** A printed terminal on a strip: y of its wire. */
export interface DrawnTerminal { label: string; y: number; side: 'board' | 'part' }
export interface DrawnBox { title: string; subtitle: string; x: number; y: number; width: number; height: number; terminals: DrawnTerminal[] }
/** A wire that serves one signal: a straight run from a pin to a part, with what stands in it. */
export interface DrawnRun {
  line: string
  signalId: string | null
  tag: string
  farTag: string
  y: number
  numbers: { near: string; far: string | null }
  series: { name: string; value: string } | null
  branches: { name: string; value: string; net: string; number: string; x: number }[]
}
/** A shared conductor: a short stub with the name of its net. */
export interface DrawnStub { net: string; x: number; y: number; direction: 'left' | 'right'; number: string }

export interface Drawing { width: number; height: number; boxes: DrawnBox[]; runs: DrawnRun[]; stubs: DrawnStub[]; boardX: number; partX: number }

const WIDTH = 930
const BOARD = { x: 24, width: 150 }
const PART = { x: 716, width: 190 }
const ROW = 29
const HEAD = 32
const GAP = 10
/** Room below a line for a resistor that leaves it. */
const BRANCH = 60

/**
 * The wiring as strips and straight runs: pins in use stand opposite the terminals they serve, so no signal wire crosses another;
 * supplies and grounds are stubs with the name of their net. Coordinates in px of a 930 wide sheet; same design, same drawing.
 */
export function drawWiring(design: Design, catalog: Catalog, board: Board, wiring: Wiring): Drawing {
  const boxes: DrawnBox[] = []
  const runs: DrawnRun[] = []
  const stubs: DrawnStub[] = []
  const boardTerminals: DrawnTerminal[] = []
  const number = (wire: Wire | undefined) => (wire && design.wires[wire.key] ? `W${design.wires[wire.key]?.number}` : '')
  const lines = planLines(design, catalog)
  let y = 14

  for (const { id, value: part } of inOrder(design.parts)) {
    const kind = catalog.parts[part.kind]
    if (!kind) continue
    const top = y
    const terminals: DrawnTerminal[] = []
    y += HEAD
    for (const t of kind.terminals) {
      if (t.role === 'contact') continue
      const at = y + ROW / 2
      terminals.push({ label: t.label, y: at, side: 'part' })
      y += ROW
      const line = lineKeyOf(id, t.id)
      const planned = t.role === 'line' ? lines.find((l) => l.key === planKey(id, part, t)) : undefined
      if (t.role !== 'line' || (planned?.members.length ?? 0) > 1 || !planned) {
        const wire = wiring.wires.find((w) => w.from.kind === 'part' && w.from.partId === id && w.from.terminal === t.id)
        if (wire) stubs.push({ net: wire.tag, x: PART.x, y: at, direction: 'left', number: number(wire) })
        continue
      }
      const pin = pinOf(design, id, part, t)
      if (pin === undefined) continue
      boardTerminals.push({ label: pin, y: at, side: 'board' })
      const run = drawRun(design, kind, id, t.id, planKey(id, part, t) ?? line, at, wiring, number)
      runs.push(run)
      if (run.branches.length > 0) y += BRANCH
    }
    boxes.push({ title: part.label, subtitle: kind.name, x: PART.x, y: top, width: PART.width, height: y - top + 6, terminals })
    y += GAP + 6
  }

  let boardY = Math.max(y, HEAD + 30)
  // Lines several parts share are named at both ends like rails.
  for (const line of lines.filter((l) => l.members.length > 1)) {
    const pin = design.plan.pins[line.key]
    if (pin === undefined) continue
    const at = boardY + ROW / 2
    boardTerminals.push({ label: pin, y: at, side: 'board' })
    stubs.push({ net: netOf(line), x: BOARD.x + BOARD.width, y: at, direction: 'right', number: number(wiring.wires.find((w) => w.line === line.key && w.from.kind === 'rail')) })
    boardY += ROW
  }
  for (const wire of wiring.wires.filter((w) => w.from.kind === 'pin' && w.to.kind === 'rail')) {
    const at = boardY + ROW / 2
    boardTerminals.push({ label: wire.from.label, y: at, side: 'board' })
    stubs.push({ net: wire.tag, x: BOARD.x + BOARD.width, y: at, direction: 'right', number: number(wire) })
    boardY += ROW
  }
  boxes.unshift({ title: board.name.split(',')[0] ?? board.name, subtitle: 'pins in use', x: BOARD.x, y: 14, width: BOARD.width, height: boardY - 8, terminals: boardTerminals })
  return { width: WIDTH, height: boardY + 24, boxes, runs, stubs, boardX: BOARD.x + BOARD.width, partX: PART.x }
}

function drawRun(design: Design, kind: Parameters<typeof lineTag>[1], partId: string, terminal: string, line: string, y: number, wiring: Wiring, number: (w: Wire | undefined) => string): DrawnRun {
  const { signalId, tag } = lineTag(design, kind, partId, terminal)
  const on = wiring.components.filter((c) => c.line === line)
  const series = on.find((c) => c.place === 'in the run')
  const wires = wiring.wires.filter((w) => w.line === line)
  const near = wires.find((w) => w.from.kind === 'part')
  const far = series ? wires.find((w) => w.from.kind === 'leg' && w.from.componentId === series.id) : undefined
  const branches = on.filter((c) => c !== series).map((c, i) => ({
    name: c.name, value: ohms(c.ohm), net: c.place === 'to ground' ? 'GND' : '3V3',
    number: legNumbers(wiring.wires, c.id, number), x: 330 + i * 120,
  }))
  return {
    line, signalId, tag, farTag: series ? `${tag}′` : tag, y, numbers: { near: number(near), far: series ? number(far) : null },
    series: series ? { name: series.name, value: ohms(series.ohm) } : null, branches,
  }
}

/** Both wires of a resistor that leaves the run: the one that joins it and the one to its net. */
function legNumbers(wires: readonly Wire[], componentId: string, number: (w: Wire | undefined) => string): string {
  return wires.filter((w) => w.from.kind === 'leg' && w.from.componentId === componentId).map(number).join(' · ')
}

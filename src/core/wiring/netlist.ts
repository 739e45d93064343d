import type { Board } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import type { PartKind } from '../catalog/part'
import { type AddedComponent, type Design, inOrder, type LineKey, lineKeyOf, type Signal } from '../design/design'
import { ohms } from '../units/format'

/** One end of a wire. `label` is what is printed on the thing. */
export type End =
  | { kind: 'part'; partId: string; terminal: string; label: string; owner: string }
  | { kind: 'pin'; label: string; owner: string }
  | { kind: 'rail'; rail: string; label: string; owner: string }
  | { kind: 'leg'; componentId: string; leg: 'a' | 'b'; label: string; owner: string }

export interface Wire {
  /** The two ends' ids, sorted: survives every recomputation. */
  key: string
  from: End
  to: End
  /** Signal this wire serves alone, or null for supplies and grounds. */
  signalId: string | null
  /** Ferrule text: the signal's tag with a suffix for the line and for the far side of an added component, or the net's name. */
  tag: string
  line: LineKey | null
  note: string
}

/** What stands between the two ends of a line. */
export interface Component {
  id: string
  name: string
  what: 'resistor'
  ohm: number
  tolerance: number
  line: LineKey
  place: 'in the run' | 'to ground' | 'to 3.3 V'
}

export interface Wiring { wires: Wire[]; components: Component[] }

export function endId(end: End): string {
  switch (end.kind) {
    case 'part': return `part:${end.partId}.${end.terminal}`
    case 'pin': return `pin:${end.label}`
    case 'rail': return `rail:${end.rail}`
    case 'leg': return `leg:${end.componentId}.${end.leg}`
  }
}

/** Every conductor of the node and every added component. Lines without a pin have no wire yet. Never throws. */
export function wiringOf(design: Design, catalog: Catalog): Wiring {
  const board = catalog.boards[design.board.id]
  if (!board) return { wires: [], components: [] }
  const wires: Wire[] = []
  for (const { id, value: part } of inOrder(design.parts)) {
    const kind = catalog.parts[part.kind]
    if (!kind) continue
    for (const terminal of kind.terminals) {
      const end: End = { kind: 'part', partId: id, terminal: terminal.id, label: terminal.label, owner: part.label }
      if (terminal.role === 'supply') {
        const rail = part.feeds[terminal.id]
        if (rail !== undefined) wires.push(shared(end, railEnd(board, rail), railName(board, rail)))
      } else if (terminal.role === 'ground') wires.push(shared(end, railEnd(board, 'GND'), 'GND'))
      else if (terminal.role === 'line') wires.push(...lineWires(design, board, kind, id, end, terminal.id))
    }
  }
  return { wires: [...boardWires(board, wires), ...wires], components: componentsOf(design) }
}

function lineWires(design: Design, board: Board, kind: PartKind, partId: string, from: End, terminalId: string): Wire[] {
  const line = lineKeyOf(partId, terminalId)
  const label = design.plan.pins[line]
  if (label === undefined) return []
  const pin: End = { kind: 'pin', label, owner: board.name }
  const { signalId, tag } = lineTag(design, kind, partId, terminalId)
  const of = (key: [End, End], suffix: string, note = ''): Wire => ({ key: wireKey(...key), from: key[0], to: key[1], signalId, tag: tag + suffix, line, note })
  const added = Object.entries(design.added).filter(([, c]) => c.line === line)
  const divider = added.find(([, c]) => c.type === 'divider')
  const out: Wire[] = []
  if (divider) {
    const [id, c] = divider
    const [top, bottom] = c.type === 'divider' ? c.names : ['', '']
    const leg = (componentId: string, which: 'a' | 'b', name: string): End => ({ kind: 'leg', componentId, leg: which, label: `${name}.${which}`, owner: name })
    out.push(of([from, leg(`${id}t`, 'a', top)], '', 'before the divider'))
    out.push(of([leg(`${id}t`, 'b', top), pin], '′', 'after the divider'))
    out.push(of([leg(`${id}b`, 'a', bottom), pin], '′', `${bottom} joins at the pin`))
    out.push(shared(leg(`${id}b`, 'b', bottom), railEnd(board, 'GND'), 'GND'))
  } else out.push(of([from, pin], ''))
  for (const [id, c] of added) {
    if (c.type !== 'pull') continue
    const leg = (which: 'a' | 'b'): End => ({ kind: 'leg', componentId: id, leg: which, label: `${c.names[0]}.${which}`, owner: c.names[0] })
    out.push(of([leg('a'), pin], divider ? '′' : '', `${c.names[0]} joins at the pin`))
    out.push(c.level === 'high' ? shared(leg('b'), railEnd(board, '3V3'), '3V3') : shared(leg('b'), railEnd(board, 'GND'), 'GND'))
  }
  return out
}

/** The tag of a line: the signal's own, with a letter where the signal has several lines. */
export function lineTag(design: Design, kind: PartKind, partId: string, terminalId: string): { signalId: string | null; tag: string } {
  const serving = signalsOfLine(design, kind, partId, terminalId)
  const only = serving.length === 1 ? serving[0] : undefined
  if (!only) return { signalId: null, tag: kind.terminals.find((t) => t.id === terminalId)?.label ?? terminalId }
  const lines = kind.channels.find((c) => c.id === only.value.channel)?.lines ?? []
  const suffix = lines.length > 1 ? String.fromCharCode(97 + lines.indexOf(terminalId)) : ''
  return { signalId: only.id, tag: only.value.tag + suffix }
}

function signalsOfLine(design: Design, kind: PartKind, partId: string, terminalId: string): { id: string; value: Signal }[] {
  return inOrder(design.signals).filter(({ value: s }) =>
    s.partId === partId && kind.channels.some((c) => c.id === s.channel && c.lines.includes(terminalId)))
}

/** One wire from each rail that is used to the board's own terminal for it. */
function boardWires(board: Board, wires: Wire[]): Wire[] {
  const used = new Set(wires.flatMap((w) => [w.from, w.to]).flatMap((e) => (e.kind === 'rail' ? [e.rail] : [])))
  return [...used].sort().flatMap((rail): Wire[] => {
    const at = board.positions.find((p) => (rail === 'GND' ? p.kind === 'ground' : p.kind === 'rail' && p.rail === rail))
    return at ? [shared({ kind: 'pin', label: at.label, owner: board.name }, railEnd(board, rail), railName(board, rail))] : []
  })
}

function componentsOf(design: Design): Component[] {
  return Object.entries(design.added).flatMap(([id, c]: [string, AddedComponent]): Component[] => {
    const base = { what: 'resistor' as const, tolerance: c.tolerance, line: c.line }
    if (c.type === 'pull') return [{ ...base, id, name: c.names[0], ohm: c.ohm, place: c.level === 'high' ? 'to 3.3 V' : 'to ground' }]
    return [
      { ...base, id: `${id}t`, name: c.names[0], ohm: c.topOhm, place: 'in the run' },
      { ...base, id: `${id}b`, name: c.names[1], ohm: c.bottomOhm, place: 'to ground' },
    ]
  })
}

/** `R1 1.8 kΩ 1 %` for every component on the line, or `direct`. */
export function between(wiring: Wiring, line: LineKey): string {
  const on = wiring.components.filter((c) => c.line === line)
  return on.length === 0 ? 'direct' : on.map((c) => `${c.name} ${ohms(c.ohm)} ${c.place}`).join(', ')
}

function shared(from: End, to: End, net: string): Wire {
  return { key: wireKey(from, to), from, to, signalId: null, tag: net, line: null, note: '' }
}

function railEnd(board: Board, rail: string): End {
  return { kind: 'rail', rail, label: railName(board, rail), owner: 'rail' }
}

function railName(board: Board, rail: string): string {
  return rail === 'GND' ? 'GND' : board.rails.find((r) => r.id === rail)?.id ?? rail
}

function wireKey(a: End, b: End): string {
  return [endId(a), endId(b)].sort().join('|')
}

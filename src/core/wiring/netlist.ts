import type { Board } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import type { LineTerminal, PartKind } from '../catalog/part'
import { type AddedComponent, type Design, inOrder, type LineKey, lineKeyOf, type Signal } from '../design/design'
import { type PlanLine, planLines } from '../pins/lines'
import { type FeedRail, railsOf } from '../power/rails'
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
  const rails = railsOf(design, board, catalog)
  const wires: Wire[] = []
  const lines = new Map(planLines(design, catalog).flatMap((l) => l.members.map((m) => [lineKeyOf(m.partId, m.terminal.id), l] as const)))
  for (const { id, value: part } of inOrder(design.parts)) {
    const kind = catalog.parts[part.kind]
    if (!kind) continue
    for (const terminal of kind.terminals) {
      const end: End = { kind: 'part', partId: id, terminal: terminal.id, label: terminal.label, owner: part.label }
      if (terminal.role === 'supply') {
        const rail = rails.find((r) => r.id === part.feeds[terminal.id])
        if (rail) wires.push(shared(end, railEnd(rail.id, rails), railTag(rail.id, rails)))
      } else if (terminal.role === 'source') wires.push(shared(end, railEnd(lineKeyOf(id, terminal.id), rails), railTag(lineKeyOf(id, terminal.id), rails)))
      else if (terminal.role === 'ground') wires.push(shared(end, railEnd('GND', rails), 'GND'))
      else if (terminal.role === 'line') {
        const line = lines.get(lineKeyOf(id, terminal.id))
        if (!line) wires.push(...branchWires(design, catalog, part, terminal, end))
        else if (line.members.length === 1) wires.push(...runWires(design, board, rails, line, end))
        else wires.push(...busWires(design, board, rails, line, end, line.members[0]?.partId === id))
      }
    }
  }
  return { wires: [...boardWires(board, wires, rails), ...wires], components: componentsOf(design) }
}

/** From a part behind a multiplexer to the branch it hangs on. */
function branchWires(design: Design, catalog: Catalog, part: Design['parts'][string], terminal: LineTerminal, from: End): Wire[] {
  const [mux = '', branch = ''] = (part.bus ?? '').split(':')
  const of = design.parts[mux]
  const at = catalog.parts[of?.kind ?? '']?.terminals.find((t) => t.id === `${terminal.bus?.role === 'sda' ? 'sd' : 'sc'}${branch}`)
  if (!of || !at) return []
  const to: End = { kind: 'part', partId: mux, terminal: at.id, label: at.label, owner: of.label }
  return [{ key: wireKey(from, to), from, to, signalId: null, tag: at.label, line: null, note: `branch ${branch} of ${of.label}` }]
}

/** Several parts on one line: each to the splice, and one wire from there on. */
function busWires(design: Design, board: Board, rails: FeedRail[], line: PlanLine, end: End, isFirst: boolean): Wire[] {
  const net = netOf(line)
  const splice: End = { kind: 'rail', rail: line.key, label: net, owner: 'splice' }
  return [shared(end, splice, net), ...(isFirst ? runWires(design, board, rails, line, splice, net) : [])]
}

/** `SDA`, or `SDA B` on a second bus. */
export function netOf(line: PlanLine): string {
  const [bus = '', role = ''] = line.key.split('.')
  const letter = bus.slice(-1).toUpperCase()
  return `${role.toUpperCase()}${letter === 'A' ? '' : ` ${letter}`}`
}

/** One line from its end at the part, or from its splice, through what the design has added, to the pin. */
function runWires(design: Design, board: Board, rails: FeedRail[], line: PlanLine, from: End, net?: string): Wire[] {
  const label = design.plan.pins[line.key]
  if (label === undefined) return []
  const pin: End = { kind: 'pin', label, owner: board.name }
  const { signalId, tag } = net === undefined ? lineTag(design, line.kind, line.partId, line.terminal.id) : { signalId: null, tag: net }
  const of = (key: [End, End], suffix: string, note = ''): Wire => ({ key: wireKey(...key), from: key[0], to: key[1], signalId, tag: tag + suffix, line: line.key, note })
  const added = Object.entries(design.added).filter(([, c]) => c.line === line.key)
  const divider = added.find(([, c]) => c.type === 'divider')
  const out: Wire[] = []
  if (divider) {
    const [id, c] = divider
    const [top, bottom] = c.type === 'divider' ? c.names : ['', '']
    const leg = (componentId: string, which: 'a' | 'b', name: string): End => ({ kind: 'leg', componentId, leg: which, label: `${name}.${which}`, owner: name })
    out.push(of([from, leg(`${id}t`, 'a', top)], '', 'before the divider'))
    out.push(of([leg(`${id}t`, 'b', top), pin], '′', 'after the divider'))
    out.push(of([leg(`${id}b`, 'a', bottom), pin], '′', `${bottom} joins at the pin`))
    out.push(shared(leg(`${id}b`, 'b', bottom), railEnd('GND', rails), 'GND'))
  } else out.push(of([from, pin], ''))
  for (const [id, c] of added) {
    if (c.type !== 'pull') continue
    const leg = (which: 'a' | 'b'): End => ({ kind: 'leg', componentId: id, leg: which, label: `${c.names[0]}.${which}`, owner: c.names[0] })
    out.push(of([leg('a'), pin], divider ? '′' : '', `${c.names[0]} joins at the pin`))
    out.push(c.level === 'high' ? shared(leg('b'), railEnd('3V3', rails), '3V3') : shared(leg('b'), railEnd('GND', rails), 'GND'))
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

/** One wire from each of the board's rails that is used to the board's own terminal for it. */
function boardWires(board: Board, wires: Wire[], rails: FeedRail[]): Wire[] {
  const used = new Set(wires.flatMap((w) => [w.from, w.to]).flatMap((e) => (e.kind === 'rail' ? [e.rail] : [])))
  return [...used].sort().flatMap((rail): Wire[] => {
    const at = board.positions.find((p) => (rail === 'GND' ? p.kind === 'ground' : p.kind === 'rail' && p.rail === rail))
    return at ? [shared({ kind: 'pin', label: at.label, owner: board.name }, railEnd(rail, rails), railTag(rail, rails))] : []
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

function railEnd(rail: string, rails: readonly FeedRail[]): End {
  return { kind: 'rail', rail, label: railTag(rail, rails), owner: 'rail' }
}

/** Ferrule text of a rail: its short id, or the name printed where it begins. */
function railTag(rail: string, rails: readonly FeedRail[]): string {
  const of = rails.find((r) => r.id === rail)
  return of && of.partId !== null ? of.name.split(' ').at(-1) ?? rail : rail
}

function wireKey(a: End, b: End): string {
  return [endId(a), endId(b)].sort().join('|')
}

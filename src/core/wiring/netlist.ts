import type { Board } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import type { LineTerminal, PartKind } from '../catalog/part'
import { addedOn, type AddedComponent, type Design, inOrder, type LineKey, lineKeyOf, type Signal } from '../design/design'
import { type PlanLine, planLines } from '../pins/lines'
import { type FeedRail, railsOf, SUPPLY_RAIL } from '../power/rails'
import { engineering, farads, ohms } from '../units/format'

/** One end of a wire. `label` is what is printed on the thing. */
export type End =
  | { kind: 'part'; partId: string; terminal: string; label: string; owner: string }
  | { kind: 'pin'; label: string; owner: string }
  | { kind: 'rail'; rail: string; label: string; owner: string }
  | { kind: 'leg'; componentId: string; leg: string; label: string; owner: string }

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
  carries: 'signal' | 'supply' | 'ground'
  lengthM: number
  note: string
}

/** A component the design adds: in the run of a line, beside it, or at a rail. */
export interface Component {
  id: string
  name: string
  what: 'resistor' | 'capacitor' | 'diode' | 'transistor' | 'optocoupler' | 'shifter' | 'clamp' | 'fuse'
  /** Value as it is bought: `1.8 kΩ 1 %`, `NPN, 100 mA`. */
  value: string
  line: LineKey | null
  place: 'in the run' | 'to ground' | 'to 3.3 V' | 'across the coil' | 'reversed across the input' | 'at the rail'
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
        if (rail) wires.push(shared(end, railEnd(rail.id, rails), railTag(rail.id, rails), part.cableM))
      } else if (terminal.role === 'source') wires.push(...sourceWires(design, rails, lineKeyOf(id, terminal.id), end, part.cableM))
      else if (terminal.role === 'ground') wires.push(shared(end, railEnd('GND', rails), 'GND', part.cableM))
      else if (terminal.role === 'line') {
        const line = lines.get(lineKeyOf(id, terminal.id))
        if (!line) wires.push(...branchWires(design, catalog, part, terminal, end))
        else if (line.members.length === 1) wires.push(...runWires(design, board, rails, line, end))
        else wires.push(...busWires(design, board, rails, line, end, line.members[0]?.partId === id))
      }
    }
  }
  wires.push(...bulkWires(design, rails))
  return { wires: [...boardWires(design, board, wires, rails), ...wires], components: componentsOf(design) }
}

const LEAD_M = 0.03
const BOARD_M = 0.1

/** From where a rail begins to the rail, through its fuse. */
function sourceWires(design: Design, rails: readonly FeedRail[], rail: string, end: End, cableM: number): Wire[] {
  const [id, fuse] = Object.entries(design.added).find(([, c]) => c.type === 'fuse' && c.rail === rail) ?? []
  const tag = railTag(rail, rails)
  if (id === undefined || !fuse) return [shared(end, railEnd(rail, rails), tag, cableM)]
  const leg = (which: string): End => ({ kind: 'leg', componentId: id, leg: which, label: `${fuse.names[0]}.${which}`, owner: fuse.names[0] })
  return [{ ...shared(end, leg('a'), tag, cableM), note: 'as short as it can be: the wire in front of the fuse has no protection' }, shared(leg('b'), railEnd(rail, rails), tag, LEAD_M)]
}

function bulkWires(design: Design, rails: readonly FeedRail[]): Wire[] {
  return Object.entries(design.added).flatMap(([id, c]): Wire[] => {
    if (c.type !== 'bulk') return []
    const leg = (which: string): End => ({ kind: 'leg', componentId: id, leg: which, label: `${c.names[0]}.${which}`, owner: c.names[0] })
    return [{ ...shared(leg('+'), railEnd(c.rail, rails), railTag(c.rail, rails), LEAD_M), note: 'mind its polarity' }, shared(leg('−'), railEnd('GND', rails), 'GND', LEAD_M)]
  })
}

/** From a part behind a multiplexer to the branch it hangs on. */
function branchWires(design: Design, catalog: Catalog, part: Design['parts'][string], terminal: LineTerminal, from: End): Wire[] {
  const [mux = '', branch = ''] = (part.bus ?? '').split(':')
  const of = design.parts[mux]
  const at = catalog.parts[of?.kind ?? '']?.terminals.find((t) => t.id === `${terminal.bus?.role === 'sda' ? 'sd' : 'sc'}${branch}`)
  if (!of || !at) return []
  const to: End = { kind: 'part', partId: mux, terminal: at.id, label: at.label, owner: of.label }
  return [{ key: wireKey(from, to), from, to, signalId: null, tag: at.label, line: null, carries: 'signal', lengthM: part.cableM, note: `branch ${branch} of ${of.label}` }]
}

/** Several parts on one line: each to the splice, and one wire from there on. */
function busWires(design: Design, board: Board, rails: FeedRail[], line: PlanLine, end: End, isFirst: boolean): Wire[] {
  const net = netOf(line)
  const splice: End = { kind: 'rail', rail: line.key, label: net, owner: 'splice' }
  return [{ ...shared(end, splice, net), carries: 'signal' as const, lengthM: memberOf(line, end)?.part.cableM ?? LEAD_M }, ...(isFirst ? runWires(design, board, rails, line, splice, net) : [])]
}

const memberOf = (line: PlanLine, end: End) => line.members.find((m) => end.kind === 'part' && m.partId === end.partId)

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
  const cableM = from.kind === 'part' ? line.part.cableM : LEAD_M
  const of = (a: End, b: End, isNear: boolean, note = ''): Wire => ({
    key: wireKey(a, b), from: a, to: b, signalId, tag: tag + (isNear ? '' : '′'), line: line.key, carries: 'signal',
    lengthM: a === from || b === from ? cableM : LEAD_M, note,
  })
  const ground = railEnd('GND', rails)
  const out: Wire[] = []
  // In the run, from the part to the pin. A component's leg takes the leads that join it; a pin takes one wire.
  let at = from
  let isNear = true
  const through = (id: string, name: string, enter: string, leave: string) => {
    const leg = (which: string): End => ({ kind: 'leg', componentId: id, leg: which, label: `${name}.${which}`, owner: name })
    out.push(of(at, leg(enter), isNear))
    at = leg(leave)
    isNear = false
    return leg
  }
  const coupler = addedOn(design, line.key, 'optocoupler')
  if (coupler) {
    const [u, r, d] = coupler.value.names
    through(`${coupler.id}r`, r, 'a', 'b')
    const anode = through(coupler.id, u, '1', '4')
    const back = line.kind.terminals.find((t) => t.role === 'ground')
    const minus: End = back ? { kind: 'part', partId: line.partId, terminal: `${back.id}:back`, label: back.label, owner: line.part.label } : ground
    out.push({ ...shared(anode('2'), minus, 'GND', cableM), note: 'to the minus of the foreign voltage, not to this board' })
    const diode = (which: string): End => ({ kind: 'leg', componentId: `${coupler.id}d`, leg: which, label: `${d}.${which}`, owner: d })
    out.push(of(diode('K'), anode('1'), true, 'reversed: it conducts when the polarity is wrong'), { ...of(diode('A'), anode('2'), true), tag: 'GND', signalId: null })
    out.push(shared(anode('3'), ground, 'GND', LEAD_M))
  }
  const driver = addedOn(design, line.key, 'driver')
  if (driver) {
    const [q, r, hold] = driver.value.names
    const fet = driver.value.device === 'fet'
    const legs = fet ? { out: 'D', in: 'G', common: 'S' } : { out: 'C', in: 'B', common: 'E' }
    const leg = through(driver.id, q, legs.out, legs.in)
    out.push(shared(leg(legs.common), ground, 'GND', LEAD_M))
    const resist = (id: string, name: string, which: string): End => ({ kind: 'leg', componentId: id, leg: which, label: `${name}.${which}`, owner: name })
    out.push(of(resist(`${driver.id}h`, hold, 'a'), leg(legs.in), false, `holds ${fet ? 'the gate' : 'the base'} low while the chip starts`), shared(resist(`${driver.id}h`, hold, 'b'), ground, 'GND', LEAD_M))
    through(`${driver.id}r`, r, 'a', 'b')
  }
  const shifter = addedOn(design, line.key, 'shifter')
  if (shifter) {
    const leg = through(shifter.id, shifter.value.names[0], 'HV1', 'LV1')
    out.push(shared(leg('HV'), railEnd(shifter.value.rail, rails), railTag(shifter.value.rail, rails), LEAD_M), shared(leg('LV'), railEnd('3V3', rails), '3V3', LEAD_M), shared(leg('GND'), ground, 'GND', LEAD_M))
  }
  const divider = addedOn(design, line.key, 'divider')
  if (divider) through(`${divider.id}t`, divider.value.names[0], 'a', 'b')
  const series = addedOn(design, line.key, 'series')
  if (series) through(series.id, series.value.names[0], 'a', 'b')

  const beside = besideOf(design, line.key)
  if (beside.length > 0 && at === from) {
    const splice: End = { kind: 'rail', rail: `${line.key}#`, label: tag, owner: 'splice' }
    if (from.kind !== 'rail') {
      out.push(of(from, splice, true))
      at = splice
    }
  }
  for (const { id, name, legs, to } of beside) {
    const leg = (which: string): End => ({ kind: 'leg', componentId: id, leg: which, label: `${name}.${which}`, owner: name })
    out.push(of(leg(legs[0]), at, isNear, `${name} joins here`), to === 'high' ? shared(leg(legs[1]), railEnd('3V3', rails), '3V3', LEAD_M) : shared(leg(legs[1]), ground, 'GND', LEAD_M))
  }
  out.push(of(at, pin, isNear))
  const diode = addedOn(design, line.key, 'diode')
  if (diode) {
    const leg = (which: string): End => ({ kind: 'leg', componentId: diode.id, leg: which, label: `${diode.value.names[0]}.${which}`, owner: diode.value.names[0] })
    const load = line.kind.terminals.find((t) => t.role === 'contact')
    const minus: End = line.terminal.coil || driver ? from : { kind: 'part', partId: line.partId, terminal: load?.id ?? 'load', label: load?.label ?? 'LOAD −', owner: line.part.label }
    const feeding = line.kind.terminals.flatMap((t) => (t.role === 'supply' ? design.parts[line.partId]?.feeds[t.id] ?? [] : []))[0]
    const plus: End = feeding === undefined ? { kind: 'part', partId: line.partId, terminal: 'load+', label: 'plus of the load', owner: line.part.label } : railEnd(feeding, rails)
    out.push({ ...of(leg('A'), minus, true, 'across the coil, the ring to plus') }, shared(leg('K'), plus, feeding === undefined ? '+' : railTag(feeding, rails), LEAD_M))
  }
  return out
}

interface Beside { id: string; name: string; legs: [string, string]; to: 'high' | 'low' }

/** What hangs between the pin's side of a line and a rail. */
function besideOf(design: Design, line: LineKey): Beside[] {
  return Object.entries(design.added).flatMap(([id, c]): Beside[] => {
    if (!('line' in c) || c.line !== line) return []
    switch (c.type) {
      case 'divider': return [{ id: `${id}b`, name: c.names[1], legs: ['a', 'b'], to: 'low' }]
      case 'pull': return [{ id, name: c.names[0], legs: ['a', 'b'], to: c.level }]
      case 'capacitor': return [{ id, name: c.names[0], legs: ['a', 'b'], to: 'low' }]
      case 'clamp': return [{ id, name: c.names[0], legs: ['K', 'A'], to: 'low' }]
      default: return []
    }
  })
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

/** One wire from each of the board's rails that is used to the board's own terminal for it, and one from what feeds the board. */
function boardWires(design: Design, board: Board, wires: Wire[], rails: FeedRail[]): Wire[] {
  const used = new Set(wires.flatMap((w) => [w.from, w.to]).flatMap((e) => (e.kind === 'rail' ? [e.rail] : [])))
  const feed = design.boardFeed
  if (feed !== null) used.add(SUPPLY_RAIL).add('GND')
  const own = [...used].sort().flatMap((rail): Wire[] => {
    const at = board.positions.find((p) => (rail === 'GND' ? p.kind === 'ground' : p.kind === 'rail' && p.rail === rail))
    return at ? [shared({ kind: 'pin', label: at.label, owner: board.name }, railEnd(rail, rails), railTag(rail, rails), BOARD_M)] : []
  })
  return feed === null ? own : [...own, { ...shared(railEnd(feed, rails), railEnd(SUPPLY_RAIL, rails), railTag(feed, rails), BOARD_M), note: 'feeds the board: not together with USB unless a diode keeps them apart' }]
}

const percent = (tolerance: number) => `${Math.round(tolerance * 1000) / 10} %`

/** Everything the design adds, in the order it was added. */
export function componentsOf(design: Design): Component[] {
  return Object.entries(design.added).flatMap(([id, c]: [string, AddedComponent]): Component[] => {
    const line = 'line' in c ? c.line : null
    const resistor = (part: string, name: string, ohm: number, tolerance: number, place: Component['place']): Component => ({ id: part, name, what: 'resistor', value: `${ohms(ohm)} ${percent(tolerance)}`, line, place })
    switch (c.type) {
      case 'divider': return [resistor(`${id}t`, c.names[0], c.topOhm, c.tolerance, 'in the run'), resistor(`${id}b`, c.names[1], c.bottomOhm, c.tolerance, 'to ground')]
      case 'pull': return [resistor(id, c.names[0], c.ohm, c.tolerance, c.level === 'high' ? 'to 3.3 V' : 'to ground')]
      case 'series': return [resistor(id, c.names[0], c.ohm, c.tolerance, 'in the run')]
      case 'capacitor': return [{ id, name: c.names[0], what: 'capacitor', value: farads(c.farad), line, place: 'to ground' }]
      case 'bulk': return [{ id, name: c.names[0], what: 'capacitor', value: farads(c.farad), line, place: 'at the rail' }]
      case 'clamp': return [{ id, name: c.names[0], what: 'clamp', value: 'suppressor diode, 3.3 V', line, place: 'to ground' }]
      case 'diode': return [{ id, name: c.names[0], what: 'diode', value: 'rectifier diode, 1 A', line, place: 'across the coil' }]
      case 'driver': return [
        { id, name: c.names[0], what: 'transistor', value: c.device === 'fet' ? 'FET, specified at 2.5 V' : 'NPN, 500 mA', line, place: 'in the run' },
        resistor(`${id}r`, c.names[1], c.seriesOhm, c.tolerance, 'in the run'), resistor(`${id}h`, c.names[2], c.holdOhm, c.tolerance, 'to ground'),
      ]
      case 'optocoupler': return [
        resistor(`${id}r`, c.names[1], c.seriesOhm, c.tolerance, 'in the run'), { id, name: c.names[0], what: 'optocoupler', value: 'current transfer 50 % or more at 5 mA', line, place: 'in the run' },
        { id: `${id}d`, name: c.names[2], what: 'diode', value: 'signal diode', line, place: 'reversed across the input' },
      ]
      case 'shifter': return [{ id, name: c.names[0], what: 'shifter', value: 'one channel of a level shifter', line, place: 'in the run' }]
      case 'fuse': return [{ id, name: c.names[0], what: 'fuse', value: engineering(c.ratedA, 'A'), line, place: 'at the rail' }]
    }
  })
}

/** `R1 1.8 kΩ 1 %` for every component on the line, or `direct`. */
export function between(wiring: Wiring, line: LineKey): string {
  const on = wiring.components.filter((c) => c.line === line)
  return on.length === 0 ? 'direct' : on.map((c) => `${c.name} ${c.value} ${c.place}`).join(', ')
}

function shared(from: End, to: End, net: string, lengthM = LEAD_M): Wire {
  return { key: wireKey(from, to), from, to, signalId: null, tag: net, line: null, carries: net === 'GND' ? 'ground' : 'supply', lengthM, note: '' }
}

function railEnd(rail: string, rails: readonly FeedRail[]): End {
  return { kind: 'rail', rail, label: railTag(rail, rails), owner: 'rail' }
}

/** Ferrule text of a rail: its short id, or what is printed where it begins. */
function railTag(rail: string, rails: readonly FeedRail[]): string {
  return rails.find((r) => r.id === rail)?.tag ?? rail
}

function wireKey(a: End, b: End): string {
  return [endId(a), endId(b)].sort().join('|')
}

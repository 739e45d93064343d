import type { Board } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import { type LineTerminal, type PartKind, returnOf, type Terminal } from '../catalog/part'
import {
  addedOn,
  type AddedComponent,
  type Design,
  inOrder,
  type LineKey,
  lineKeyOf,
  type Signal,
} from '../model/design'
import { allLines, type PlanLine } from '../lines/lines'
import { GROUND, groundOfRail, groundsOf, isGround } from '../power/grounds'
import { feedDiode, type FeedRail, railsOf } from '../power/rails'
import { engineering, farads, ohms } from '../units/format'

/** One end of a wire. `label` is what is printed on the thing. */
export type End =
  | { kind: 'part'; partId: string; terminal: string; label: string; owner: string }
  | { kind: 'pin'; label: string; owner: string }
  | { kind: 'rail'; rail: string; label: string; owner: string }
  | { kind: 'leg'; componentId: string; leg: string; label: string; owner: string }
  /** A conductor of somebody else's circuit, named by what it is to the terminal it is joined to. */
  | { kind: 'foreign'; partId: string; terminal: string; label: string; owner: string }

export interface Wire {
  /** The two ends' ids, sorted: survives every recomputation. */
  key: string
  from: End
  to: End
  /** Signal this wire serves alone, or null for supplies and grounds. */
  signalId: string | null
  /**
   * Ferrule text: the signal's tag with a suffix for the line and for the far side of an added component, or the net's
   * name.
   */
  tag: string
  line: LineKey | null
  carries: 'signal' | 'supply' | 'ground' | 'load'
  /** True for a conductor that hangs on the mains. */
  mains: boolean
  lengthM: number
  note: string
}

/** A component the design adds: in the run of a line, beside it, or at a rail. */
export interface Component {
  id: string
  name: string
  what:
    | 'resistor'
    | 'capacitor'
    | 'diode'
    | 'transistor'
    | 'optocoupler'
    | 'shifter'
    | 'clamp'
    | 'fuse'
    | 'snubber'
    | 'varistor'
  /** Value as it is bought: `1.8 kΩ 1 %`, `NPN, 100 mA`. */
  value: string
  line: LineKey | null
  place:
    | 'in the run'
    | 'to ground'
    | 'to 3.3 V'
    | 'across the coil'
    | 'reversed across the input'
    | 'at the rail'
    | 'in the feed'
    | 'across the load'
    | 'to the middle'
    | 'across the transformer'
}

export interface Wiring {
  wires: Wire[]
  components: Component[]
}

export function endId(end: End): string {
  switch (end.kind) {
    case 'part':
      return `part:${end.partId}.${end.terminal}`
    case 'pin':
      return `pin:${end.label}`
    case 'rail':
      return `rail:${end.rail}`
    case 'leg':
      return `leg:${end.componentId}.${end.leg}`
    case 'foreign':
      return `foreign:${end.partId}.${end.terminal}`
  }
}

const MAINS_NOTE = 'mains: only by whoever is licensed for it where you live, dead and locked off'

/** Marks what hangs on the mains, through contacts and loads. */
function markMains({ design, catalog, rails }: Netlist, wires: Wire[]): Wire[] {
  const live = new Set(
    rails
      .filter((r) => r.ac && !r.isolated && r.through === null)
      .flatMap((r) => [`rail:${r.id}`, `inside:${r.partId ?? ''}`]),
  )
  if (live.size === 0) return wires
  const joins = (end: End): string[] => {
    if (end.kind === 'leg') return [endId(end), `component:${end.componentId}`]
    if (end.kind !== 'part') return [endId(end)]
    const kind = catalog.parts[design.parts[end.partId]?.kind ?? '']
    const t = kind?.terminals.find((x) => x.id === end.terminal)
    const does = t?.role === 'contact' ? t.does : undefined
    if (does?.kind === 'common' || does?.kind === 'closes' || does?.kind === 'opens')
      return [endId(end), `contact:${end.partId}.${does.of}`]
    return kind?.load || kind?.terminals.some((x) => x.role === 'source' && !x.isolated)
      ? [endId(end), `inside:${end.partId}`]
      : [endId(end)]
  }
  for (let grew = true; grew;) {
    grew = false
    for (const w of wires) {
      const ends = [...joins(w.from), ...joins(w.to)]
      if (!ends.some((e) => live.has(e)) || ends.every((e) => live.has(e))) continue
      for (const e of ends) live.add(e)
      grew = true
    }
  }
  return wires.map((w) =>
    live.has(endId(w.from)) ? { ...w, mains: true, note: w.note === '' ? MAINS_NOTE : `${w.note}; ${MAINS_NOTE}` } : w,
  )
}

/** What wires are made from: worked out once for all of them. */
interface Netlist {
  design: Design
  catalog: Catalog
  board: Board
  rails: FeedRail[]
  grounds: ReadonlyMap<string, string>
}

/** Every conductor of the node and every added component. Lines without a pin have no wire yet. Never throws. */
export function wiringOf(design: Design, catalog: Catalog): Wiring {
  const board = catalog.boards[design.board.id]
  if (!board) return { wires: [], components: [] }
  const net: Netlist = {
    design,
    catalog,
    board,
    rails: railsOf(design, board, catalog),
    grounds: groundsOf(design, catalog),
  }
  const wires: Wire[] = []
  const lines = new Map(
    allLines(design, catalog).flatMap((l) => l.members.map((m) => [lineKeyOf(m.partId, m.terminal.id), l] as const)),
  )
  for (const { id, value: part } of inOrder(design.parts)) {
    const kind = catalog.parts[part.kind]
    if (!kind) continue
    for (const terminal of kind.terminals) {
      const key = lineKeyOf(id, terminal.id)
      const end: End = { kind: 'part', partId: id, terminal: terminal.id, label: terminal.label, owner: part.label }
      if (terminal.role === 'supply') wires.push(...supplyWires(net, part, terminal.id, end))
      else if (terminal.role === 'source') wires.push(...sourceWires(net, key, end, part.cableM))
      else if (terminal.role === 'ground')
        wires.push(
          part.feeds[terminal.id] === undefined
            ? groundWire(net, end, net.grounds.get(key) ?? GROUND, part.cableM)
            : joined(net, end, part.feeds[terminal.id] ?? '', part.cableM),
        )
      else if (terminal.role === 'contact') wires.push(...contactWires(net, id, part, terminal, end))
      else {
        const line = lines.get(key)
        if (!line) wires.push(...branchWires(design, catalog, part, terminal, end))
        else if (line.members.length === 1) wires.push(...runWires(net, line, end))
        else wires.push(...busWires(net, line, end, line.members[0]?.partId === id))
      }
    }
  }
  wires.push(...railComponentWires(net), ...quenchWires(net), ...tieWires(net))
  return {
    wires: markMains(net, withoutLonelyGrounds([...boardWires(net, wires), ...wires])),
    components: componentsOf(design),
  }
}

/**
 * A ground that is not the board's is a terminal others meet at, or one wire between two of them: where only two ends
 * would meet at it they are joined directly, and an end that would meet nobody gets no wire.
 */
function withoutLonelyGrounds(wires: Wire[]): Wire[] {
  const meets = new Map<string, Wire[]>()
  for (const w of wires)
    if (w.to.kind === 'rail' && w.to.rail !== GROUND && isGround(w.to.rail))
      meets.set(w.to.rail, [...(meets.get(w.to.rail) ?? []), w])
  const direct = new Map<Wire, Wire | null>()
  for (const list of meets.values()) {
    const [a, b] = list
    if (list.length > 2 || !a) continue
    direct.set(a, null)
    if (b)
      direct.set(b, {
        ...b,
        key: wireKey(b.from, a.from),
        to: a.from,
        tag: '0V',
        lengthM: Math.max(a.lengthM, b.lengthM),
        note: b.note || a.note,
      })
  }
  return wires.flatMap((w) => (direct.has(w) ? (direct.get(w) ?? []) : [w]))
}

function groundWire({ design }: Netlist, end: End, ground: string, lengthM = LEAD_M): Wire {
  return shared(end, groundEnd(design, ground), ground === GROUND ? 'GND' : groundTag(design, ground), lengthM)
}

function groundEnd(design: Design, ground: string): End {
  return { kind: 'rail', rail: ground, label: ground === GROUND ? 'GND' : groundTag(design, ground), owner: 'rail' }
}

/** `0V panel`: the ground of a circuit that is kept apart from the board's. */
const groundTag = (design: Design, ground: string): string =>
  `0V ${(design.parts[ground.slice(GROUND.length + 1)]?.label ?? '').slice(0, 14)}`.trim()

/** From a rail to a part's supply, or from the contact it hangs behind. */
function supplyWires(net: Netlist, part: Design['parts'][string], terminal: string, end: End): Wire[] {
  const rail = net.rails.find((r) => r.id === part.feeds[terminal])
  if (!rail) return []
  return rail.through === null
    ? [shared(end, railEnd(rail.id, net.rails), railTag(rail.id, net.rails), part.cableM)]
    : [joined(net, end, rail.id, part.cableM)]
}

/** One conductor from a terminal to the rail or the terminal of another part it is joined to. */
function joined({ design, catalog, rails }: Netlist, from: End, at: string, lengthM: number): Wire {
  const rail = rails.find((r) => r.id === at && r.through === null)
  const [partId = '', terminal = ''] = at.split('.')
  const other = design.parts[partId]
  const label = catalog.parts[other?.kind ?? '']?.terminals.find((t) => t.id === terminal)?.label ?? terminal
  const to: End = rail ? railEnd(rail.id, rails) : { kind: 'part', partId, terminal, label, owner: other?.label ?? '' }
  return { ...shared(from, to, rail ? railTag(rail.id, rails) : label, lengthM), carries: 'load' }
}

/**
 * What a contact is joined to: as the design says, or the conductor of another circuit an isolated input was bought
 * for.
 */
function contactWires(
  net: Netlist,
  partId: string,
  part: Design['parts'][string],
  terminal: Extract<Terminal, { role: 'contact' }>,
  end: End,
): Wire[] {
  const at = part.feeds[terminal.id]
  if (at !== undefined) return [joined(net, end, at, part.cableM)]
  const words = FOREIGN[terminal.does?.kind ?? '']
  if (!words || !terminal.does || !('pole' in terminal.does)) return []
  const { pole } = terminal.does
  const to: End = { kind: 'foreign', partId, terminal: terminal.id, label: pole === 'plus' ? '+' : '−', owner: words }
  return [
    {
      ...shared(end, to, pole === 'plus' ? '+' : '−', part.cableM),
      carries: 'load',
      note: `${pole} of ${words}; never to this board`,
    },
  ]
}

/** Circuits an isolated terminal belongs to when the design names no other. */
const FOREIGN: Record<string, string> = { senses: 'the voltage it reads', switches: 'the input it plays to' }

const LEAD_M = 0.03
const BOARD_M = 0.1

/** From where a rail begins to the rail, through its fuse. */
function sourceWires({ design, rails }: Netlist, rail: string, end: End, cableM: number): Wire[] {
  const [id, fuse] = Object.entries(design.added).find(([, c]) => c.type === 'fuse' && c.rail === rail) ?? []
  const tag = railTag(rail, rails)
  if (id === undefined || !fuse) return [shared(end, railEnd(rail, rails), tag, cableM)]
  const leg = legOf(id, fuse.names[0])
  return [
    {
      ...shared(end, leg('a'), tag, cableM),
      note: 'as short as it can be: the wire in front of the fuse has no protection',
    },
    shared(leg('b'), railEnd(rail, rails), tag, LEAD_M),
  ]
}

const legOf =
  (componentId: string, name: string) =>
  (leg: string): End => ({ kind: 'leg', componentId, leg, label: `${name}.${leg}`, owner: name })

/** Capacitors from rails to the grounds those rails return to. */
function railComponentWires(net: Netlist): Wire[] {
  const { design, rails, grounds } = net
  return Object.entries(design.added).flatMap(([id, c]): Wire[] => {
    if (c.type !== 'bulk') return []
    const leg = legOf(id, c.names[0])
    return [
      { ...shared(leg('+'), railEnd(c.rail, rails), railTag(c.rail, rails), LEAD_M), note: 'mind its polarity' },
      groundWire(net, leg('−'), groundOfRail(grounds, c.rail)),
    ]
  })
}

/** What lies across a load, at the load itself. */
function quenchWires({ design, catalog }: Netlist): Wire[] {
  return Object.entries(design.added).flatMap(([id, c]): Wire[] => {
    if (c.type !== 'quench') return []
    const part = design.parts[c.part]
    const kind = catalog.parts[part?.kind ?? '']
    const [a, b] = loadTerminals(kind)
    if (!part || !a || !b) return []
    const leg = legOf(id, c.names[0])
    const legs = c.device === 'diode' ? (['K', 'A'] as const) : (['1', '2'] as const)
    const end = (t: Terminal): End => ({
      kind: 'part',
      partId: c.part,
      terminal: t.id,
      label: t.label,
      owner: part.label,
    })
    return [
      {
        ...shared(leg(legs[0]), end(a), '', LEAD_M),
        tag: a.label,
        carries: 'load',
        note: c.device === 'diode' ? 'the ring to plus, at the load' : 'at the load',
      },
      { ...shared(leg(legs[1]), end(b), '', LEAD_M), tag: b.label, carries: 'load' },
    ]
  })
}

/** The two terminals of a load, plus first. */
export function loadTerminals(kind: PartKind | undefined): Terminal[] {
  if (!kind?.load) return []
  const supply = kind.terminals.filter((t) => t.role === 'supply')
  return [
    ...supply,
    ...kind.terminals.filter((t) => t.role === 'ground' || (supply.length === 0 && t.role === 'contact')),
  ].slice(0, 2)
}

/** From a part behind a multiplexer to the branch it hangs on. */
function branchWires(
  design: Design,
  catalog: Catalog,
  part: Design['parts'][string],
  terminal: LineTerminal,
  from: End,
): Wire[] {
  const [mux = '', branch = ''] = (part.bus ?? '').split(':')
  const of = design.parts[mux]
  const at = catalog.parts[of?.kind ?? '']?.terminals.find(
    (t) => t.id === `${terminal.bus?.role === 'sda' ? 'sd' : 'sc'}${branch}`,
  )
  if (!of || !at) return []
  const to: End = { kind: 'part', partId: mux, terminal: at.id, label: at.label, owner: of.label }
  return [
    {
      key: wireKey(from, to),
      from,
      to,
      signalId: null,
      tag: at.label,
      line: null,
      carries: 'signal',
      mains: false,
      lengthM: part.cableM,
      note: `branch ${branch} of ${of.label}`,
    },
  ]
}

/** Several parts on one line: each to the splice, and one wire from there on. */
function busWires(list: Netlist, line: PlanLine, end: End, isFirst: boolean): Wire[] {
  const net = netOf(line)
  const splice: End = { kind: 'rail', rail: line.key, label: net, owner: 'splice' }
  return [
    { ...shared(end, splice, net), carries: 'signal' as const, lengthM: memberOf(line, end)?.part.cableM ?? LEAD_M },
    ...(isFirst ? runWires(list, line, splice, net) : []),
  ]
}

const memberOf = (line: PlanLine, end: End) => line.members.find((m) => end.kind === 'part' && m.partId === end.partId)

/** `SDA`, or `SDA B` on a second bus. */
export function netOf(line: PlanLine): string {
  const [bus = '', role = ''] = line.key.split('.')
  const letter = bus.slice(-1).toUpperCase()
  return `${role.toUpperCase()}${letter === 'A' ? '' : ` ${letter}`}`
}

/** A run under way: where it has come to, and the wires so far. A component's leg takes the leads that join it. */
interface Run {
  list: Netlist
  line: PlanLine
  from: End
  at: End
  /** True until the first component: from there on the tag is primed. */
  isNear: boolean
  tag: string
  signalId: string | null
  cableM: number
  out: Wire[]
}

function runWire(run: Run, a: End, b: End, isNear: boolean, note = ''): Wire {
  return {
    key: wireKey(a, b),
    from: a,
    to: b,
    signalId: run.signalId,
    tag: run.tag + (isNear ? '' : '′'),
    line: run.line.key,
    carries: 'signal',
    mains: false,
    lengthM: a === run.from || b === run.from ? run.cableM : LEAD_M,
    note,
  }
}

/** Goes on through a component, in at one leg and out at another; gives its legs. */
function through(run: Run, id: string, name: string, enter: string, leave: string): (which: string) => End {
  const leg = legOf(id, name)
  run.out.push(runWire(run, run.at, leg(enter), run.isNear))
  run.at = leg(leave)
  run.isNear = false
  return leg
}

const boardGround = ({ list }: Run) => groundEnd(list.design, GROUND)

function throughCoupler(run: Run): void {
  const { list, line, cableM } = run
  const coupler = addedOn(list.design, line.key, 'optocoupler')
  if (!coupler) return
  const [u, r, d] = coupler.value.names
  through(run, `${coupler.id}r`, r, 'a', 'b')
  const anode = through(run, coupler.id, u, '1', '4')
  // The foreign side returns to the part's own minus, wherever that belongs: never to this board's ground by itself.
  const back = returnOf(line.kind, line.terminal.id)
  const own = back === undefined ? undefined : (list.grounds.get(lineKeyOf(line.partId, back)) ?? GROUND)
  const diode = legOf(`${coupler.id}d`, d)
  run.out.push(
    {
      ...groundWire(list, anode('2'), own ?? `${GROUND}:${line.partId}`, cableM),
      note: 'the minus of the foreign voltage: never to this board',
    },
    runWire(run, diode('K'), anode('1'), true, 'reversed: it conducts when the polarity is wrong'),
    { ...runWire(run, diode('A'), anode('2'), true), tag: 'GND', signalId: null },
    shared(anode('3'), boardGround(run), 'GND', LEAD_M),
  )
}

function throughDriver(run: Run): void {
  const driver = addedOn(run.list.design, run.line.key, 'driver')
  if (!driver) return
  const [q, r, hold] = driver.value.names
  const fet = driver.value.device === 'fet'
  const legs = fet ? { out: 'D', in: 'G', common: 'S' } : { out: 'C', in: 'B', common: 'E' }
  const leg = through(run, driver.id, q, legs.out, legs.in)
  const holds = legOf(`${driver.id}h`, hold)
  const why = `holds ${fet ? 'the gate' : 'the base'} low while the chip starts`
  run.out.push(
    shared(leg(legs.common), boardGround(run), 'GND', LEAD_M),
    runWire(run, holds('a'), leg(legs.in), false, why),
    shared(holds('b'), boardGround(run), 'GND', LEAD_M),
  )
  through(run, `${driver.id}r`, r, 'a', 'b')
}

function throughShifter(run: Run): void {
  const { design, rails } = run.list
  const shifter = addedOn(design, run.line.key, 'shifter')
  if (!shifter) return
  const { rail, names } = shifter.value
  const leg = through(run, shifter.id, names[0], 'HV1', 'LV1')
  run.out.push(
    shared(leg('HV'), railEnd(rail, rails), railTag(rail, rails), LEAD_M),
    shared(leg('LV'), railEnd('3V3', rails), '3V3', LEAD_M),
    shared(leg('GND'), boardGround(run), 'GND', LEAD_M),
  )
}

/** What hangs from the run: pulls, capacitors and clamps join it where it has come to, or at a splice. */
function hangBeside(run: Run): void {
  const { list, line, from, tag } = run
  const beside = besideOf(list.design, line.key)
  if (beside.length > 0 && run.at === from && from.kind !== 'rail') {
    const splice: End = { kind: 'rail', rail: `${line.key}#`, label: tag, owner: 'splice' }
    run.out.push(runWire(run, from, splice, true))
    run.at = splice
  }
  const logic = railEnd('3V3', list.rails)
  for (const { id, name, legs, to } of beside) {
    const leg = legOf(id, name)
    run.out.push(
      runWire(run, leg(legs[0]), run.at, run.isNear, `${name} joins here`),
      to === 'high'
        ? shared(leg(legs[1]), logic, '3V3', LEAD_M)
        : shared(leg(legs[1]), boardGround(run), 'GND', LEAD_M),
    )
  }
  const clamp = addedOn(list.design, line.key, 'clamp')
  if (clamp) run.out.push(shared(legOf(clamp.id, clamp.value.names[0])('K'), logic, '3V3', LEAD_M))
}

/** The diode across a coil: from the switched end to the plus of what feeds it. */
function diodeWires(run: Run): Wire[] {
  const { list, line, from } = run
  const diode = addedOn(list.design, line.key, 'diode')
  if (!diode) return []
  const { partId } = line
  const owner = line.part.label
  const leg = legOf(diode.id, diode.value.names[0])
  const load = line.kind.terminals.find((t) => t.role === 'contact')
  const atRun = line.terminal.coil || addedOn(list.design, line.key, 'driver')
  const minus: End = atRun
    ? from
    : { kind: 'part', partId, terminal: load?.id ?? 'load', label: load?.label ?? 'LOAD −', owner }
  const feeds = line.kind.terminals.flatMap((t) =>
    t.role === 'supply' ? (list.design.parts[partId]?.feeds[t.id] ?? []) : [],
  )
  const feeding = feeds[0] ?? loadsOn(list, line)[0]
  const plus: End =
    feeding === undefined
      ? { kind: 'part', partId, terminal: 'load+', label: 'plus of the load', owner }
      : railEnd(feeding, list.rails)
  return [
    runWire(run, leg('A'), minus, true, 'across the coil, the ring to plus'),
    shared(leg('K'), plus, feeding === undefined ? '+' : railTag(feeding, list.rails), LEAD_M),
  ]
}

/** One line from its end at the part, or from its splice, through what the design has added, to the pin. */
function runWires(list: Netlist, line: PlanLine, from: End, net?: string): Wire[] {
  const { design } = list
  const pin = farEnd(list, line)
  if (!pin) return []
  const tagged =
    net === undefined ? lineTag(design, line.kind, line.partId, line.terminal.id) : { signalId: null, tag: net }
  const cableM = from.kind === 'part' ? line.part.cableM : LEAD_M
  const run: Run = { list, line, from, at: from, isNear: true, ...tagged, cableM, out: [] }
  throughCoupler(run)
  throughDriver(run)
  throughShifter(run)
  const divider = addedOn(design, line.key, 'divider')
  if (divider) through(run, `${divider.id}t`, divider.value.names[0], 'a', 'b')
  const series = addedOn(design, line.key, 'series')
  if (series) through(run, series.id, series.value.names[0], 'a', 'b')
  hangBeside(run)
  run.out.push(runWire(run, run.at, pin, run.isNear), ...middleWires(list, line, from), ...diodeWires(run))
  return run.out
}

/** What holds the other lead of something that swings at a middle voltage, and the burden across it. */
function middleWires({ design, rails }: Netlist, line: PlanLine, from: End): Wire[] {
  const { swings } = line.terminal
  const other = line.kind.terminals.find((t) => t.id === swings?.mid)
  if (!swings || !other) return []
  const lead: End = {
    kind: 'part',
    partId: line.partId,
    terminal: other.id,
    label: other.label,
    owner: line.part.label,
  }
  const middle: End = { kind: 'rail', rail: `${line.key}~`, label: 'mid', owner: 'splice' }
  const out: Wire[] = []
  const burden = addedOn(design, line.key, 'burden')
  if (burden) {
    const leg = legOf(burden.id, burden.value.names[0])
    out.push(
      {
        ...shared(leg('a'), from, '', LEAD_M),
        tag: burden.value.names[0],
        carries: 'signal',
        note: 'at the part, before anything else',
      },
      { ...shared(leg('b'), lead, '', LEAD_M), tag: burden.value.names[0], carries: 'signal' },
    )
  }
  const bias = addedOn(design, line.key, 'bias')
  if (!bias) return [...out, { ...shared(lead, groundEnd(design, GROUND), 'GND', line.part.cableM), carries: 'ground' }]
  const [top, bottom, capacitor] = bias.value.names
  const [t, b, c] = [legOf(`${bias.id}t`, top), legOf(`${bias.id}b`, bottom), legOf(`${bias.id}c`, capacitor)]
  const mid = (end: End): Wire => ({ ...shared(end, middle, 'mid', LEAD_M), carries: 'signal' })
  return [
    ...out,
    { ...mid(lead), lengthM: line.part.cableM },
    mid(t('b')),
    mid(b('a')),
    mid(c('+')),
    shared(t('a'), railEnd('3V3', rails), '3V3', LEAD_M),
    shared(b('b'), groundEnd(design, GROUND), 'GND', LEAD_M),
    shared(c('−'), groundEnd(design, GROUND), 'GND', LEAD_M),
  ]
}

/** Where a line ends: its pin, or the input of a converter. */
function farEnd({ design, catalog, board }: Netlist, { key, hosted }: PlanLine): End | null {
  if (hosted) {
    const host = design.parts[hosted.partId]
    const terminal = catalog.parts[host?.kind ?? '']?.terminals.find((t) => t.id === hosted.terminal)
    return host && terminal
      ? { kind: 'part', partId: hosted.partId, terminal: terminal.id, label: terminal.label, owner: host.label }
      : null
  }
  const label = design.plan.pins[key]
  return label === undefined ? null : { kind: 'pin', label, owner: board.name }
}

interface Beside {
  id: string
  name: string
  legs: [string, string]
  to: 'high' | 'low'
}

/** What hangs between the pin's side of a line and a rail. */
function besideOf(design: Design, line: LineKey): Beside[] {
  return Object.entries(design.added).flatMap(([id, c]): Beside[] => {
    if (!('line' in c) || c.line !== line) return []
    switch (c.type) {
      case 'divider':
        return [{ id: `${id}b`, name: c.names[1], legs: ['a', 'b'], to: 'low' }]
      case 'pull':
        return [{ id, name: c.names[0], legs: ['a', 'b'], to: c.level }]
      case 'capacitor':
        return [{ id, name: c.names[0], legs: ['a', 'b'], to: 'low' }]
      case 'clamp':
        return [{ id, name: c.names[0], legs: ['mid', 'A'], to: 'low' }]
      default:
        return []
    }
  })
}

/** The tag of a line: the signal's own, with a letter where the signal has several lines. */
export function lineTag(
  design: Design,
  kind: PartKind,
  partId: string,
  terminalId: string,
): { signalId: string | null; tag: string } {
  const serving = signalsOfLine(design, kind, partId, terminalId)
  const only = serving.length === 1 ? serving[0] : undefined
  if (!only) return { signalId: null, tag: kind.terminals.find((t) => t.id === terminalId)?.label ?? terminalId }
  const lines = kind.channels.find((c) => c.id === only.value.channel)?.lines ?? []
  const suffix = lines.length > 1 ? String.fromCharCode(97 + lines.indexOf(terminalId)) : ''
  return { signalId: only.id, tag: only.value.tag + suffix }
}

function signalsOfLine(
  design: Design,
  kind: PartKind,
  partId: string,
  terminalId: string,
): { id: string; value: Signal }[] {
  return inOrder(design.signals).filter(
    ({ value: s }) =>
      s.partId === partId &&
      s.of === null &&
      kind.channels.some((c) => c.id === s.channel && c.lines.includes(terminalId)),
  )
}

/** Rails that feed what hangs on a low-side switch of this line. */
function loadsOn({ design, catalog }: Netlist, line: PlanLine): string[] {
  const stage = line.kind.terminals.find(
    (t) => t.role === 'contact' && t.does?.kind === 'sinks' && t.does.of === line.terminal.id,
  )
  if (!stage) return []
  return inOrder(design.parts).flatMap(({ value }) => {
    const terminals = catalog.parts[value.kind]?.terminals ?? []
    return terminals.some((t) => t.role === 'ground' && value.feeds[t.id] === lineKeyOf(line.partId, stage.id))
      ? terminals.flatMap((t) => (t.role === 'supply' ? (value.feeds[t.id] ?? []) : []))
      : []
  })
}

/**
 * One wire from each of the board's rails that is used to the board's own terminal for it, and one from what feeds the
 * board.
 */
/** The connection a chip needs to end its own sleep. */
function tieWires({ design, board }: Netlist): Wire[] {
  const { tie } = board.wake
  if (!design.sleep || !tie) return []
  const [from, to] = [tie.from, tie.to].map((label): End => ({ kind: 'pin', label, owner: board.name }))
  if (!from || !to) return []
  return [
    {
      ...shared(from, to, 'WAKE', LEAD_M),
      carries: 'signal',
      note: `ends the sleep; off while the board is written: a plug or a jumper in it`,
    },
  ]
}

function boardWires({ design, board, rails }: Netlist, wires: Wire[]): Wire[] {
  const used = new Set(wires.flatMap((w) => [w.from, w.to]).flatMap((e) => (e.kind === 'rail' ? [e.rail] : [])))
  const feed = design.boardFeed
  const supply = board.supply.rail
  if (feed !== null) used.add(supply).add(GROUND)
  const own = [...used].sort().flatMap((rail): Wire[] => {
    const at = board.positions.find((p) =>
      rail === GROUND ? p.kind === 'ground' : p.kind === 'rail' && p.rail === rail,
    )
    return at
      ? [
          shared(
            { kind: 'pin', label: at.label, owner: board.name },
            railEnd(rail, rails),
            railTag(rail, rails),
            BOARD_M,
          ),
        ]
      : []
  })
  if (feed === null) return own
  const note = 'feeds the board: not together with USB unless a diode keeps them apart'
  const diode = feedDiode(design)
  if (!diode)
    return [...own, { ...shared(railEnd(feed, rails), railEnd(supply, rails), railTag(feed, rails), BOARD_M), note }]
  const leg = legOf(diode.id, diode.name)
  return [
    ...own,
    {
      ...shared(railEnd(feed, rails), leg('A'), railTag(feed, rails), BOARD_M),
      note: 'feeds the board through a Schottky diode',
    },
    { ...shared(leg('K'), railEnd(supply, rails), railTag(supply, rails), LEAD_M), note: 'the ring to the board' },
  ]
}

const percent = (tolerance: number) => `${Math.round(tolerance * 1000) / 10} %`

type Bought = Pick<Component, 'what' | 'value' | 'place'>
/** Parts that one addition brings: the name of each, what it is, and what its id ends in. */
type Made = readonly [suffix: string, name: string, what: Bought]
type Of<T extends AddedComponent['type']> = Extract<AddedComponent, { type: T }>

const resistor = (ohm: number, tolerance: number, place: Component['place']): Bought => ({
  what: 'resistor',
  value: `${ohms(ohm)} ${percent(tolerance)}`,
  place,
})
const capacitor = (farad: number, place: Component['place']): Bought => ({
  what: 'capacitor',
  value: farads(farad),
  place,
})

const MADE: { [T in AddedComponent['type']]: (c: Of<T>) => readonly Made[] } = {
  divider: (c) => [
    ['t', c.names[0], resistor(c.topOhm, c.tolerance, 'in the run')],
    ['b', c.names[1], resistor(c.bottomOhm, c.tolerance, 'to ground')],
  ],
  pull: (c) => [['', c.names[0], resistor(c.ohm, c.tolerance, c.level === 'high' ? 'to 3.3 V' : 'to ground')]],
  series: (c) => [['', c.names[0], resistor(c.ohm, c.tolerance, 'in the run')]],
  capacitor: (c) => [['', c.names[0], capacitor(c.farad, 'to ground')]],
  bulk: (c) => [['', c.names[0], capacitor(c.farad, 'at the rail')]],
  clamp: (c) => [['', c.names[0], { what: 'clamp', value: 'pair of Schottky diodes, 2 µA', place: 'to ground' }]],
  bias: (c) => [
    ['t', c.names[0], resistor(c.topOhm, c.tolerance, 'to the middle')],
    ['b', c.names[1], resistor(c.bottomOhm, c.tolerance, 'to the middle')],
    ['c', c.names[2], capacitor(c.farad, 'to the middle')],
  ],
  burden: (c) => [['', c.names[0], resistor(c.ohm, c.tolerance, 'across the transformer')]],
  diode: (c) => [
    [
      '',
      c.names[0],
      {
        what: 'diode',
        value: `${c.fast ? 'Schottky' : 'rectifier'} diode, ${engineering(c.ratedA, 'A')}`,
        place: 'across the coil',
      },
    ],
  ],
  driver: (c) => [
    [
      '',
      c.names[0],
      {
        what: 'transistor',
        value: c.device === 'fet' ? 'FET, specified at 2.5 V' : 'NPN, 500 mA',
        place: 'in the run',
      },
    ],
    ['r', c.names[1], resistor(c.seriesOhm, c.tolerance, 'in the run')],
    ['h', c.names[2], resistor(c.holdOhm, c.tolerance, 'to ground')],
  ],
  optocoupler: (c) => [
    ['r', c.names[1], resistor(c.seriesOhm, c.tolerance, 'in the run')],
    ['', c.names[0], { what: 'optocoupler', value: 'current transfer 50 % or more at 5 mA', place: 'in the run' }],
    ['d', c.names[2], { what: 'diode', value: 'signal diode', place: 'reversed across the input' }],
  ],
  shifter: (c) => [['', c.names[0], { what: 'shifter', value: 'one channel of a level shifter', place: 'in the run' }]],
  'feed-diode': (c) => [['', c.names[0], { what: 'diode', value: 'Schottky diode, 1 A', place: 'in the feed' }]],
  quench: (c) => [
    [
      '',
      c.names[0],
      {
        what: QUENCH[c.device].what,
        value: c.device === 'diode' ? `rectifier diode, ${engineering(c.ratedA, 'A')}` : QUENCH[c.device].value,
        place: 'across the load',
      },
    ],
  ],
  fuse: (c) => [
    [
      '',
      c.names[0],
      { what: 'fuse', value: `${engineering(c.ratedA, 'A')}${c.slow ? ' time-lag' : ''}`, place: 'at the rail' },
    ],
  ],
}

const madeOf = <T extends AddedComponent['type']>(type: T, c: Of<T>): readonly Made[] => MADE[type](c)

/** Everything the design adds, in the order it was added. */
export function componentsOf(design: Design): Component[] {
  return Object.entries(design.added).flatMap(([id, c]) =>
    madeOf(c.type, c).map(([suffix, name, what]): Component => ({
      id: id + suffix,
      name,
      line: 'line' in c ? c.line : null,
      ...what,
    })),
  )
}

/** `R1 1.8 kΩ 1 %` for every component on the line, or `direct`. */
export function between(wiring: Wiring, line: LineKey): string {
  const on = wiring.components.filter((c) => c.line === line)
  return on.length === 0 ? 'direct' : on.map((c) => `${c.name} ${c.value} ${c.place}`).join(', ')
}

/** What takes over a coil's current at a load. */
const QUENCH = {
  diode: { what: 'diode', value: '' },
  rc: { what: 'snubber', value: '100 Ω and 100 nF, for the mains where it is on it' },
  varistor: { what: 'varistor', value: 'for 1.4 times the peak voltage' },
} as const

function shared(from: End, to: End, net: string, lengthM = LEAD_M): Wire {
  return {
    key: wireKey(from, to),
    from,
    to,
    signalId: null,
    tag: net,
    line: null,
    carries: to.kind === 'rail' && isGround(to.rail) ? 'ground' : 'supply',
    mains: false,
    lengthM,
    note: '',
  }
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

import type { PartKind } from '../catalog/part'
import type { Board } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import { type Design, type DesignPart, type LineKey, addedOn, inOrder, lineKeyOf } from '../model/design'
import { isGround } from '../power/grounds'
import { type PlanLine, planKey, planLines } from '../lines/lines'
import { type Component, componentsOf, type End, lineTag, netOf, type Wire, type Wiring } from './netlist'

/** Kinds of symbol that stand in a run or hang from it. */
export type Symbol = 'resistor' | 'capacitor' | 'diode' | 'box'

/**
 * What a drawing is made of. Coordinates px; `net` names the conductor a piece belongs to, so that crossings can be
 * told from joints.
 */
export type Shape =
  | { kind: 'box'; x: number; y: number; width: number; height: number }
  | { kind: 'terminal'; x: number; y: number }
  | {
      kind: 'wire'
      net: string
      line: LineKey | null
      signalId: string | null
      points: [number, number][]
      thread: boolean
    }
  | { kind: 'dot'; net: string; signalId: string | null; x: number; y: number }
  | {
      kind: 'symbol'
      symbol: Symbol
      signalId: string | null
      x: number
      y: number
      width: number
      upright: boolean
      text: string
    }
  | {
      kind: 'ferrule'
      line: LineKey | null
      signalId: string | null
      x: number
      y: number
      width: number
      text: string
    }
  | { kind: 'net'; x: number; y: number; width: number; text: string }
  | {
      kind: 'text'
      x: number
      y: number
      text: string
      size: number
      anchor: 'start' | 'middle' | 'end'
      mono: boolean
      soft: boolean
      bold: boolean
      ground: boolean
    }

export interface Drawing {
  width: number
  height: number
  shapes: Shape[]
}

const EDGE = 20
const BOARD_WIDTH = 144
const PART_WIDTH = 176
const ROW = 28
const HEAD = 32
const GAP = 12
/** Room under a run for the words of what stands in it, and for what hangs from it. */
const WORDS = 24
const HANG = 102
const TAP = 46
/** Height of a rail with the numbers of its taps. */
const BAR = 42
const SLOT = { through: 112, hang: 118, leg: 56 }
/** Room beside a run for ferrule and number at either end. */
const TAGS = 98

const ferruleWidth = (text: string) => text.length * 9.5 + 15
const netWidth = (text: string) => Math.max(40, text.length * 8.6 + 12)

/** One thing on the way from the part to the pin. */
interface Item {
  place: 'through' | 'hang'
  symbol: Symbol
  words: string
  net: string
  numbers: string
  /** Legs that leave the run below it. */ legs: { name: string; net: string; numbers: string }[]
}

interface Sheet {
  shapes: Shape[]
  design: Design
  wiring: Wiring
  middle: number
  boardX: number
  partX: number
  width: number
}

/** What a part is drawn from, and where the board's own ends are gathered. */
interface Drawn {
  sheet: Sheet
  lines: readonly PlanLine[]
  wires: readonly Wire[]
  items: ReadonlyMap<LineKey, readonly Item[]>
  boardTerminals: { label: string; y: number }[]
}

/** One part with its terminals and the runs that end there, from `top` down; gives where it ends. */
function drawPart(
  drawn: Drawn,
  { id, part, kind }: { id: string; part: DesignPart; kind: PartKind },
  top: number,
): number {
  const { sheet, wires } = drawn
  const { partX, design, wiring } = sheet
  const title = titleLines(part.label)
  let y = top + HEAD + (title.length - 1) * TITLE_ROW
  for (const t of kind.terminals) {
    const mine = wires.filter((w) =>
      [w.from, w.to].some((e) => e.kind === 'part' && e.partId === id && e.terminal === t.id),
    )
    // Contacts belong to the load's own circuit, unless something of ours is joined there.
    if (t.role === 'contact' && mine.length === 0) continue
    const at = y + ROW / 2
    terminal(sheet, partX, at, t.label, 'part')
    y += ROW
    const own = t.role === 'line' ? ownRun(drawn, planKey(id, part, t)) : null
    if (own === null) {
      const numbers = numbersAt(sheet, wiring, mine, lineKeyOf(id, t.id))
      if (mine.length > 0) stub(sheet, [partX, at], -1, stubWords(mine, id, t.id), numbers)
      continue
    }
    drawn.boardTerminals.push({ label: own.pin, y: at })
    run(sheet, own.line, t.id, own.items, at)
    if (own.items.some((i) => i.place === 'through')) y += WORDS
    if (own.items.some((i) => i.place === 'hang' || i.legs.length > 0)) y += HANG
  }
  for (const c of wiring.components.filter((x) => x.place === 'across the load' && isAcross(design, x.id, id))) {
    sheet.shapes.push(words(partX + 14, y + ROW / 2 + 5, `${c.name} ${c.what} across it`, { soft: true, size: 14 }))
    y += ROW
  }
  sheet.shapes.push(
    { kind: 'box', x: partX, y: top, width: PART_WIDTH, height: y - top + 6 },
    ...title.map((line, i) => words(partX + 14, top + 22 + i * TITLE_ROW, line, { bold: true, size: 16 })),
  )
  return y
}

/** A line that has a pin to itself and is drawn as one run; null for one that is shared or has none. */
function ownRun({ sheet, lines, items }: Drawn, key: LineKey | null) {
  const line = lines.find((l) => l.key === key)
  const pin = key === null ? undefined : sheet.design.plan.pins[key]
  if (!line || line.members.length > 1 || pin === undefined) return null
  return { line, pin, items: items.get(line.key) ?? [] }
}

/**
 * The wiring as strips and straight runs. Pins in use stand opposite the terminals they serve, so no run crosses
 * another or bends; supplies and ground are bars at the top and at the bottom, met by stubs with the name of their net.
 * `parts` draws those alone, so that a large node can be put on several sheets. Same design, same drawing.
 */
export function drawWiring(
  design: Design,
  catalog: Catalog,
  board: Board,
  wiring: Wiring,
  parts?: ReadonlySet<string>,
): Drawing {
  const lines = planLines(design, catalog)
  const items = new Map(lines.map((l) => [l.key, itemsOf(design, wiring, l)]))
  const middle = Math.max(
    420,
    TAGS * 2 + Math.max(0, ...[...items.values()].map((list) => list.reduce((w, i) => w + slotOf(i), 0))),
  )
  const boardX = EDGE + BOARD_WIDTH
  const partX = boardX + middle
  const sheet: Sheet = { shapes: [], design, wiring, middle, boardX, partX, width: partX + PART_WIDTH + EDGE }
  const shown = inOrder(design.parts).filter(({ id, value }) => catalog.parts[value.kind] && (!parts || parts.has(id)))
  const wires = wiring.wires.filter(
    (w) => !parts || [w.from, w.to].every((e) => e.kind !== 'part' || parts.has(e.partId)),
  )

  let y = drawBars(sheet, wires, 'supply', EDGE)
  const boardTop = y
  const boardTerminals: { label: string; y: number }[] = []
  const on = { sheet, lines, wires, items, boardTerminals }
  for (const { id, value: part } of shown) {
    const kind = catalog.parts[part.kind]
    if (kind) y = drawPart(on, { id, part, kind }, y) + GAP
  }
  for (const line of lines.filter(
    (l) => l.members.length > 1 && l.members.some((m) => !parts || parts.has(m.partId)),
  )) {
    const pin = design.plan.pins[line.key]
    if (pin === undefined) continue
    boardTerminals.push({ label: pin, y: y + ROW / 2 })
    stub(
      sheet,
      [boardX, y + ROW / 2],
      1,
      netOf(line),
      wiring.wires
        .filter((w) => w.line === line.key && w.to.kind === 'pin')
        .map((w) => numberOf(design, w))
        .join(' '),
    )
    y += ROW
  }
  for (const wire of wires.filter((w) => w.from.kind === 'pin' && w.to.kind === 'rail')) {
    boardTerminals.push({ label: wire.from.label, y: y + ROW / 2 })
    stub(sheet, [boardX, y + ROW / 2], 1, wire.tag, numberOf(design, wire))
    y += ROW
  }
  for (const t of boardTerminals) terminal(sheet, boardX, t.y, t.label, 'board')
  sheet.shapes.push(
    { kind: 'box', x: EDGE, y: boardTop, width: BOARD_WIDTH, height: y - boardTop + 6 },
    ...titleLines(board.name.split(',')[0] ?? board.name, BOARD_LETTERS).map((line, i) =>
      words(EDGE + 12, boardTop + 22 + i * TITLE_ROW, line, { bold: true, size: 15 }),
    ),
  )
  const bottom = drawBars(sheet, wires, 'ground', y + GAP + 10)
  return { width: sheet.width, height: bottom + 4, shapes: sheet.shapes }
}

/** Parts grouped so that the drawing of each group is at most `height` high: sheets of paper. */
export function drawSheets(design: Design, catalog: Catalog, board: Board, wiring: Wiring, height: number): Drawing[] {
  const sheets: Drawing[] = []
  let group: string[] = []
  let last: Drawing | null = null
  for (const { id } of inOrder(design.parts)) {
    const tried = drawWiring(design, catalog, board, wiring, new Set([...group, id]))
    if (tried.height > height && last) {
      sheets.push(last)
      group = [id]
      last = drawWiring(design, catalog, board, wiring, new Set(group))
    } else {
      group.push(id)
      last = tried
    }
  }
  return last ? [...sheets, last] : sheets
}

function slotOf(i: Item): number {
  return i.place === 'hang' ? SLOT.hang : Math.max(SLOT.through, i.legs.length * SLOT.leg + 12)
}

function numberOf(design: Design, wire: Wire | undefined): string {
  const stored = wire && design.wires[wire.key]
  return stored ? `W${stored.number}` : ''
}

/** True for a component that lies across this load. */
function isAcross(design: Design, componentId: string, partId: string): boolean {
  const c = design.added[componentId]
  return c?.type === 'quench' && c.part === partId
}

/** Height of a second line of a part's name. */
const TITLE_ROW = 20
/** Letters a line of the board's title takes. */
const BOARD_LETTERS = 15
const TITLE_LETTERS = 18

/** A part's name over as many lines as it needs. */
function titleLines(label: string, letters = TITLE_LETTERS): string[] {
  const lines: string[] = ['']
  for (const word of label.split(' ')) {
    const last = lines.at(-1) ?? ''
    if (last !== '' && last.length + 1 + word.length > letters) lines.push(word)
    else lines[lines.length - 1] = last === '' ? word : `${last} ${word}`
  }
  return lines
}

/** What a stub leads to: the net, or for a conductor of a load's circuit the terminal at its other end. */
function stubWords(mine: readonly Wire[], partId: string, terminal: string): string {
  const load = mine.find(
    (w) => w.carries === 'load' && [w.from, w.to].every((e) => e.kind === 'part' || e.kind === 'foreign'),
  )
  const other =
    load && [load.from, load.to].find((e) => !(e.kind === 'part' && e.partId === partId && e.terminal === terminal))
  return other && (other.kind === 'part' || other.kind === 'foreign')
    ? `${other.owner} ${other.label}`
    : (mine[0]?.tag ?? '')
}

/** Numbers of the wires at a terminal, the fuse between two of them, and a word for those on the mains. */
function numbersAt({ design }: Sheet, wiring: Wiring, mine: readonly Wire[], key: string): string {
  const fuse = Object.entries(design.added).find(([, c]) => c.type === 'fuse' && c.rail === key)
  const behind =
    fuse && wiring.wires.find((w) => w.from.kind === 'leg' && w.from.componentId === fuse[0] && w.from.leg === 'b')
  const numbers = mine.map((w) => numberOf(design, w))
  const words =
    fuse && fuse[1].type === 'fuse'
      ? [...numbers, `${fuse[1].names[0]} ${fuse[1].ratedA} A`, numberOf(design, behind)]
      : numbers
  return [...words, ...(mine.some((w) => w.mains) ? ['mains'] : [])].join(' ')
}

interface Look {
  size?: number
  anchor?: 'start' | 'middle' | 'end'
  mono?: boolean
  soft?: boolean
  bold?: boolean
  ground?: boolean
}

function words(
  x: number,
  y: number,
  text: string,
  { size = 14.5, anchor = 'start', mono = false, soft = false, bold = false, ground = false }: Look = {},
): Shape {
  return { kind: 'text', x, y, text, size, anchor, mono, soft, bold, ground }
}

function terminal(sheet: Sheet, x: number, y: number, label: string, side: 'board' | 'part'): void {
  sheet.shapes.push(
    { kind: 'terminal', x, y },
    words(x + (side === 'board' ? -15 : 16), y + 5.5, label, {
      anchor: side === 'board' ? 'end' : 'start',
      mono: true,
      bold: true,
      size: 16.5,
    }),
  )
}

type Point = readonly [x: number, y: number]
/** The line a shape is of, and its signal. */
interface Thread {
  line: LineKey
  signalId: string | null
}

/** A shared conductor: a short stub with the name of its net and the number of its wire. */
function stub(sheet: Sheet, [x, y]: Point, out: 1 | -1, net: string, number: string): void {
  const width = netWidth(net)
  const end = x + out * 40
  sheet.shapes.push(
    {
      kind: 'wire',
      net,
      line: null,
      signalId: null,
      points: [
        [x + out * 7, y],
        [end, y],
      ],
      thread: false,
    },
    { kind: 'net', x: out > 0 ? end : end - width, y: y - 11, width, text: net },
    words(end + out * (width + 8), y + 5, number, {
      anchor: out > 0 ? 'start' : 'end',
      mono: true,
      soft: true,
      size: 14,
    }),
  )
}

/** A line drawn straight from its pin to its terminal, with what stands in it and what hangs from it. */
function run(sheet: Sheet, line: PlanLine, terminalId: string, items: readonly Item[], y: number): void {
  const { design, wiring, boardX, partX } = sheet
  const { signalId, tag } = lineTag(design, line.kind, line.partId, terminalId)
  const [left, right] = [boardX + 7, partX - 7]
  const wires = wiring.wires.filter((w) => w.line === line.key)
  const near = wires.find((w) => w.from.kind === 'part' && w.from.terminal === terminalId)
  const far = wires.find((w) => w.to.kind === 'pin')
  sheet.shapes.push({
    kind: 'wire',
    net: line.key,
    line: line.key,
    signalId,
    points: [
      [left, y],
      [right, y],
    ],
    thread: true,
  })
  ferrule(sheet, { line: line.key, signalId }, [left + 12, y], far?.tag ?? tag)
  const farWidth = ferruleWidth(far?.tag ?? tag)
  const nearWidth = ferruleWidth(tag)
  ferrule(sheet, { line: line.key, signalId }, [right - 12 - nearWidth, y], tag)
  sheet.shapes.push(
    words(right - 20 - nearWidth, y + 5, numberOf(design, near ?? far), {
      anchor: 'end',
      mono: true,
      soft: true,
      size: 14,
      ground: true,
    }),
  )
  if (far && far !== near && near)
    sheet.shapes.push(
      words(left + 20 + farWidth, y + 5, numberOf(design, far), { mono: true, soft: true, size: 14, ground: true }),
    )

  let x = partX - TAGS
  const hangFrom = y + (items.some((i) => i.place === 'through') ? WORDS : 0)
  for (const item of items) {
    const slot = slotOf(item)
    const down = (at: number, from: number, net: string, numbers: string) => {
      const width = netWidth(net)
      sheet.shapes.push(
        {
          kind: 'wire',
          net: `${line.key} ${at}`,
          line: line.key,
          signalId,
          points: [
            [at, from],
            [at, hangFrom + 62],
          ],
          thread: false,
        },
        { kind: 'net', x: at - width / 2, y: hangFrom + 62, width, text: net },
        words(at, hangFrom + 99, numbers, { anchor: 'middle', mono: true, soft: true, size: 14 }),
      )
    }
    const middle = x - slot / 2
    if (item.place === 'through') {
      const isBox = item.symbol === 'box'
      sheet.shapes.push({
        kind: 'symbol',
        symbol: item.symbol,
        signalId,
        x: middle,
        y,
        width: isBox ? slot - 16 : 54,
        upright: false,
        text: isBox ? item.words : '',
      })
      if (!isBox) sheet.shapes.push(words(middle, y + 26, item.words, { anchor: 'middle', bold: true }))
      item.legs.forEach((leg, i) => {
        const at = middle + (i - (item.legs.length - 1) / 2) * SLOT.leg
        down(at, y + 10, leg.net, leg.numbers)
        sheet.shapes.push(words(at + 6, hangFrom + 48, leg.name, { mono: true, size: 14 }))
      })
    } else {
      const at = x - slot + 26
      sheet.shapes.push(
        { kind: 'dot', net: line.key, signalId, x: at, y },
        {
          kind: 'wire',
          net: line.key,
          line: line.key,
          signalId,
          points: [
            [at, y],
            [at, hangFrom + 16],
          ],
          thread: false,
        },
      )
      sheet.shapes.push(
        {
          kind: 'symbol',
          symbol: item.symbol,
          signalId,
          x: at,
          y: hangFrom + 31.5,
          width: 16,
          upright: true,
          text: '',
        },
        words(at + 14, hangFrom + 37, item.words, { bold: true }),
      )
      down(at, hangFrom + 48, item.net, item.numbers)
    }
    x -= slot
  }
}

function ferrule(sheet: Sheet, { line, signalId }: Thread, [x, y]: Point, text: string): void {
  sheet.shapes.push({ kind: 'ferrule', line, signalId, x, y: y - 11, width: ferruleWidth(text), text })
}

/** Rails as bars with a tap for every wire that ends there. */
function drawBars(sheet: Sheet, wires: readonly Wire[], carries: 'supply' | 'ground', top: number): number {
  const rails = new Map<string, { tag: string; numbers: string[] }>()
  for (const w of wires) {
    for (const end of [w.from, w.to]) {
      if (end.kind !== 'rail' || end.owner === 'splice' || isGround(end.rail) !== (carries === 'ground')) continue
      const rail = rails.get(end.rail) ?? { tag: end.label, numbers: [] }
      rail.numbers.push(numberOf(sheet.design, w))
      rails.set(end.rail, rail)
    }
  }
  // Bars stand beside one another as long as there is room, and go on in a new row when one is longer.
  const right = sheet.width - EDGE
  let x = EDGE
  let y = top
  for (const rail of [...rails.keys()].sort()) {
    const { tag, numbers } = rails.get(rail) ?? { tag: '', numbers: [] }
    const left = [...numbers].sort((a, b) => Number(a.slice(1)) - Number(b.slice(1)))
    const width = netWidth(tag)
    const lead = width + 30
    if (x > EDGE && x + lead + left.length * TAP > right) {
      x = EDGE
      y += BAR
    }
    do {
      const row = left.splice(0, Math.max(1, Math.floor((right - x - lead) / TAP)))
      const start = x + lead
      const end = start + Math.max(0, row.length - 1) * TAP + 12
      sheet.shapes.push(
        { kind: 'net', x, y: y - 1, width, text: tag },
        {
          kind: 'wire',
          net: `rail ${rail}`,
          line: null,
          signalId: null,
          points: [
            [x + width, y + 10],
            [end, y + 10],
          ],
          thread: false,
        },
      )
      row.forEach((number, i) =>
        sheet.shapes.push(
          { kind: 'dot', net: `rail ${rail}`, signalId: null, x: start + i * TAP, y: y + 10 },
          words(start + i * TAP, y + 30, number, { anchor: 'middle', mono: true, soft: true, size: 14 }),
        ),
      )
      x = end + 30
      if (left.length > 0) {
        x = EDGE
        y += BAR
      }
    } while (left.length > 0)
  }
  return (rails.size > 0 ? y + BAR : y) + (carries === 'supply' ? 6 : 0)
}

/** What the design adds to a line, from the part to the pin. */
function itemsOf(design: Design, wiring: Wiring, line: PlanLine): Item[] {
  if (line.members.length > 1) return []
  const components = componentsOf(design).filter((c) => c.line === line.key)
  const wiresOf = (componentId: string, leg?: string) =>
    wiring.wires.filter((w) =>
      [w.from, w.to].some(
        (e) => e.kind === 'leg' && e.componentId === componentId && (leg === undefined || e.leg === leg),
      ),
    )
  const numbers = (list: Wire[]) => [...new Set(list.map((w) => numberOf(design, w)))].filter(Boolean).join(' ')
  const railOf = (componentId: string) =>
    wiresOf(componentId)
      .flatMap((w) => [w.from, w.to])
      .find((e) => e.kind === 'rail' && e.owner !== 'splice')?.label ?? 'GND'
  const SYMBOLS: Record<string, Symbol> = {
    resistor: 'resistor',
    capacitor: 'capacitor',
    diode: 'diode',
    clamp: 'diode',
  }
  const symbolOf = (what: string): Symbol => SYMBOLS[what] ?? 'box'
  const short = (value: string) => value.replace(/ \d+(\.\d+)? %$/, '').split(',')[0] ?? value
  const order = ['reversed across the input', 'across the coil', 'in the run', 'to 3.3 V', 'to ground']
  const driver = addedOn(design, line.key, 'driver')
  // What holds a base or a gate sits at the transistor, before the series resistor.
  const rank = (c: Component) =>
    driver && c.id.startsWith(driver.id)
      ? 2 + [driver.id, `${driver.id}h`, `${driver.id}r`].indexOf(c.id) / 10
      : order.indexOf(c.place)
  const sorted = [...components].sort((a, b) => rank(a) - rank(b))
  return sorted.flatMap((c): Item[] => {
    const otherText = c.what === 'transistor' ? short(c.value) : c.what
    const couplerText = c.what === 'optocoupler' ? 'coupler' : otherText
    const text0 = c.what === 'clamp' ? 'clamp' : couplerText
    const text = `${c.name} ${c.what === 'resistor' || c.what === 'capacitor' ? short(c.value) : text0}`
    if (c.place !== 'in the run') {
      return [
        {
          place: 'hang',
          symbol: symbolOf(c.what),
          words: text,
          net:
            c.place === 'reversed across the input'
              ? `${components.find((o) => o.what === 'optocoupler')?.name ?? ''}.2`
              : railOf(c.id),
          numbers: numbers(wiresOf(c.id)),
          legs: [],
        },
      ]
    }
    const legs = (LEGS[c.what] ?? []).flatMap((leg) => {
      const wires = wiresOf(c.id, leg).filter((w) => w.signalId === null && w.line === null)
      const to = wires.flatMap((w) => [w.from, w.to]).find((e: End) => e.kind !== 'leg')
      return to ? [{ name: leg, net: to.label, numbers: numbers(wires) }] : []
    })
    return [{ place: 'through', symbol: symbolOf(c.what), words: text, net: '', numbers: '', legs }]
  })
}

/** Legs of a component that leave the run. */
const LEGS: Record<string, string[]> = { optocoupler: ['3', '2'], transistor: ['E', 'S'], shifter: ['HV', 'LV', 'GND'] }

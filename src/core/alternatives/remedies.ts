import { type DriverName, isKey } from '../catalog/drivers'
import { addressOf } from '../model/address'
import { type Board, pinsOf } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import type { PartKind } from '../catalog/part'
import { applyEdit } from '../edits/apply'
import { applyAll as allApplied } from '../edits/applyAll'
import { type Design, inOrder } from '../model/design'
import type { EditBody } from '../edits/edit'
import type { Conflict } from '../pins/conflict'
import { planLines } from '../lines/lines'
import { afterRounds, EDIT_ROUNDS } from '../pins/afterRounds'
import { planPins } from '../pins/planPins'
import { rankBoards } from './rankBoards'

export interface WishRemedy {
  label: string
  edits: EditBody[]
}

/** A way out of a conflict that has been tried: what would still lack a pin after it. */
export interface Freeing extends WishRemedy {
  what: string
  leaves: number
}

/** Wishes of a conflict that can be given up at a click. Each ends that conflict, since it is irreducible. */
export function wishRemedies(conflict: Conflict): WishRemedy[] {
  return conflict.members.flatMap((m): WishRemedy[] => {
    if (m.kind === 'lock') return [{ label: `Unlock ${m.pin}`, edits: [{ kind: 'unlock', line: m.line }] }]
    if (m.kind === 'kept-free')
      return [{ label: `Give ${m.pin} back`, edits: [{ kind: 'keep-free', pin: m.pin, free: false }] }]
    if (m.kind === 'wakes')
      return [
        {
          label: `${m.part} need not end the sleep`,
          edits: [{ kind: 'set-part', partId: m.partId, setting: 'wakes', value: 'no' }],
        },
      ]
    return []
  })
}

/**
 * Every way out that helps, tried on a copy: what is given up, shared, gathered, moved to another bus or board. Fewest
 * open lines first.
 */
export function freeingEdits(design: Design, catalog: Catalog, newId: () => string): Freeing[] {
  const board = catalog.boards[design.board.id]
  if (!board) return []
  // Beyond twice the largest board there is no way out on one node.
  const largest = Math.max(...Object.values(catalog.boards).map((b) => pinsOf(b).length))
  if (planLines(design, catalog).length > 2 * largest) return []
  // What has been accepted before changes nothing about what cannot be.
  const plan = planPins(unplanned(design), catalog, { past: 'kept', stop: afterRounds(EDIT_ROUNDS) })
  if (plan.kind !== 'impossible') return []
  const before = openLines(design, catalog)
  const wishes = plan.conflicts.flatMap((c) => wishRemedies(c).map((r) => ({ ...r, what: 'a wish given up' })))
  const candidates = [
    ...wishes,
    ...sharing(design, catalog),
    ...buses(design, catalog, board),
    ...gathering(design, catalog, newId),
    ...measuring(design, catalog),
    ...behindMultiplexer(design, catalog, board),
  ]
  const tried = candidates.flatMap((c): Freeing[] => {
    const after = applyAll(design, c.edits, catalog)
    if (!after) return []
    const leaves = openLines(after, catalog)
    return leaves < before ? [{ ...c, leaves }] : []
  })
  const other = rankBoards(design, catalog, () => afterRounds(EDIT_ROUNDS))
    .filter((r) => r.board !== design.board.id && r.carries)
    .slice(0, 2)
    .map((r): Freeing => ({
      label: `Take the ${r.name.split(',')[0] ?? r.name}`,
      what: `another board: cost ${r.proven ? '' : 'at most '}${r.cost}, ${r.free} pins stay free`,
      edits: [{ kind: 'choose-board', board: r.board }],
      leaves: 0,
    }))
  return [...tried, ...other].sort((a, b) => a.leaves - b.leaves || a.edits.length - b.edits.length)
}

export function applyAll(design: Design, edits: readonly EditBody[], catalog: Catalog): Design | null {
  const applied = allApplied(design, edits, catalog)
  return 'design' in applied ? applied.design : null
}

/** Lines no plan can serve, moves allowed, whatever has been accepted so far. */
function openLines(design: Design, catalog: Catalog): number {
  const plan = planPins(unplanned(design), catalog, { past: 'kept', stop: afterRounds(EDIT_ROUNDS) })
  if (plan.kind === 'planned') return 0
  if (plan.kind === 'stopped') return planLines(design, catalog).length
  const board = catalog.boards[design.board.id]
  // Of each conflict one line stays without; of more lines than pins all that are too many do.
  return Math.max(plan.conflicts.length, planLines(design, catalog).length - (board ? pinsOf(board).length : 0))
}

const unplanned = (design: Design): Design => ({ ...design, plan: { pins: {}, basis: '' } })

type Candidate = WishRemedy & { what: string }

/** Thermometers that may share one line. */
function sharing(design: Design, catalog: Catalog): Candidate[] {
  const own = inOrder(design.parts).filter(
    ({ value: p }) => p.bus === null && busKindOf(catalog.parts[p.kind]) === 'one-wire',
  )
  if (own.length < 2) return []
  return [
    {
      label: `Put ${own.length} one-wire parts on one line`,
      what: 'each answers to its own number',
      edits: own.map(({ id }) => ({ kind: 'set-bus', partId: id, bus: 'a' })),
    },
  ]
}

/** A second bus given up where the chip has only one. */
function buses(design: Design, catalog: Catalog, board: Board): Candidate[] {
  if (board.peripherals.i2c.routing === 'software') return []
  const beyond = inOrder(design.parts).filter(
    ({ value: p }) =>
      busKindOf(catalog.parts[p.kind]) === 'i2c' && p.bus !== null && p.bus !== 'a' && !p.bus.includes(':'),
  )
  const together = inOrder(design.parts).flatMap(({ value: p }) => {
    const kind = catalog.parts[p.kind]
    return kind?.i2c && !p.bus?.includes(':') ? [addressOf(p, kind)] : []
  })
  // Two of one address on one bus answer together: that would be no way out.
  if (new Set(together).size < together.length) return []
  return beyond.length === 0
    ? []
    : [
        {
          label: 'Put all on one I²C bus',
          what: 'addresses must then differ',
          edits: beyond.map(({ id }) => ({ kind: 'set-bus', partId: id, bus: 'a' })),
        },
      ]
}

/** Parts on a bus too many, or of one address, behind the branches of a multiplexer. */
function behindMultiplexer(design: Design, catalog: Catalog, board: Board): Candidate[] {
  const MUX = 'mux-i2c-8'
  const onBus = inOrder(design.parts).filter(
    ({ value: p }) => busKindOf(catalog.parts[p.kind]) === 'i2c' && p.kind !== MUX && !p.bus?.includes(':'),
  )
  const beyond = onBus.filter(({ value: p }) => p.bus !== null && p.bus !== 'a')
  const there = inOrder(design.parts).find(({ value }) => value.kind === MUX)
  const id = there?.id ?? ['mux', 'mux2', 'mux3'].find((x) => !(x in design.parts))
  if (
    beyond.length === 0 ||
    beyond.length > 8 ||
    id === undefined ||
    !catalog.parts[MUX] ||
    board.peripherals.i2c.routing === 'software'
  )
    return []
  const taken = Object.values(design.parts).flatMap((p) =>
    p.bus?.startsWith(`${id}:`) ? [Number(p.bus.split(':')[1])] : [],
  )
  const free = [0, 1, 2, 3, 4, 5, 6, 7].filter((n) => !taken.includes(n))
  if (free.length < beyond.length) return []
  return [
    {
      label: `Put ${beyond.length === 1 ? (design.parts[beyond[0]?.id ?? '']?.label ?? 'it') : `${beyond.length} of them`} behind a multiplexer`,
      what: 'one bus, and equal addresses may stay',
      edits: [
        ...(there ? [] : [{ kind: 'add-part' as const, partId: id, part: MUX, label: 'Multiplexer', signals: [] }]),
        ...beyond.map((p, i): EditBody => ({ kind: 'set-bus', partId: p.id, bus: `${id}:${free[i] ?? 0}` })),
      ],
    },
  ]
}

/** Push buttons together in a matrix, a ladder or behind an expander: the smallest of each that takes them all. */
function gathering(design: Design, catalog: Catalog, newId: () => string): Candidate[] {
  const buttons = inOrder(design.parts).filter(
    ({ value: p }) =>
      catalog.parts[p.kind]?.channels.every((c) => c.driver === 'button') &&
      catalog.parts[p.kind]?.channels.length === 1,
  )
  if (buttons.length < 3) return []
  const ids = buttons.map((b) => b.id)
  const takes = (kind: PartKind) => kind.channels.filter((c) => isKey(c.driver)).length
  const ways: [DriverName, string][] = [
    ['key', 'rows and columns, a diode each'],
    ['ladder', 'one analog line, told apart by voltage'],
    ['expander', 'two bus lines'],
  ]
  return ways.flatMap(([driver, what]): Candidate[] => {
    const fitting = Object.values(catalog.parts)
      .filter((k) => k.channels.some((c) => c.driver === driver))
      .sort((a, b) => takes(a) - takes(b))
    const all = fitting.find((k) => takes(k) >= ids.length)
    const kind = all ?? fitting.at(-1)
    if (!kind) return []
    const taken = ids.slice(0, takes(kind))
    return [
      {
        label: `Gather ${taken.length} buttons: ${kind.name.toLowerCase()}`,
        what,
        edits: [{ kind: 'gather', partIds: taken, part: kind.id, partId: newId(), label: kind.name }],
      },
    ]
  })
}

/** Analog parts put at the inputs of a converter on the bus: all of them, and each alone. */
function measuring(design: Design, catalog: Catalog): Candidate[] {
  const analog = planLines(design, catalog)
    .filter((l) => l.terminal.needs === 'analog')
    .map((l) => l.partId)
  const what = 'two bus lines for four voltages'
  const all = hostingEdits(design, catalog, analog)
  const each = analog.length > 1 ? analog.flatMap((id) => hostingEdits(design, catalog, [id])) : []
  return [...all, ...each].map((c) => ({ ...c, what }))
}

const CONVERTER = 'adc-i2c-4'

/**
 * These analog parts at inputs of the converter that is there, or of a new one. Parts a converter on a bus cannot serve
 * are left out; none where nothing is left.
 */
export function hostingEdits(design: Design, catalog: Catalog, partIds: readonly string[]): WishRemedy[] {
  const kind = catalog.parts[CONVERTER]
  const there = inOrder(design.parts).find(({ value }) => value.kind === CONVERTER)
  const hostId = there?.id ?? ['conv', 'conv2', 'conv3'].find((id) => !(id in design.parts))
  if (!kind || hostId === undefined) return []
  const numbers = kind.terminals.flatMap((t) =>
    t.role === 'contact' && t.does?.kind === 'input' ? [t.does.number] : [],
  )
  const free = numbers.filter((n) => !Object.values(design.parts).some((p) => p.bus === `${hostId}:${n}`))
  const begin: EditBody[] = there
    ? []
    : [{ kind: 'add-part', partId: hostId, part: CONVERTER, label: 'Converter', signals: [] }]
  const started = applyAll(design, begin, catalog)
  const taken: EditBody[] = []
  let at = started
  for (const partId of partIds) {
    const n = free[taken.length]
    if (!at || n === undefined) break
    const edit: EditBody = { kind: 'set-bus', partId, bus: `${hostId}:${n}` }
    const next = applyEdit(at, edit, catalog)
    if (!next.ok) continue
    at = next.design
    taken.push(edit)
  }
  const [only] = taken
  const label =
    taken.length === 1 && only?.kind === 'set-bus'
      ? `Measure ${design.parts[only.partId]?.label ?? 'it'} with a converter on the bus`
      : `Measure ${taken.length} of them with a converter on the bus`
  return taken.length === 0 ? [] : [{ label, edits: [...begin, ...taken] }]
}

function busKindOf(kind: PartKind | undefined): string | undefined {
  return kind?.terminals.flatMap((t) => (t.role === 'line' && t.bus ? [t.bus.kind] : []))[0]
}

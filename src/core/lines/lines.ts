import type { BusRole } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import { type Channel, lineAsSet, type LineTerminal, linesOf, type PartKind } from '../catalog/part'
import { terminalThrough } from './terminalThrough'
import { type Design, type DesignPart, inOrder, type LineKey, lineKeyOf } from '../model/design'
import { rememberedOf } from '../model/remembered'

/** One terminal that a line ends at. */
export interface LineMember {
  partId: string
  part: DesignPart
  kind: PartKind
  terminal: LineTerminal
  channels: Channel[]
}

export type BusKind = 'i2c' | 'spi' | 'uart' | 'one-wire'

/** Lines that belong to one controller of the chip. */
export interface LineBus {
  kind: BusKind
  id: string
  role: BusRole | 'data'
}

/**
 * A line of the design that needs a pin, with all that judging a pin for it takes. Lines of several parts on one bus
 * are one.
 */
export interface PlanLine extends LineMember {
  key: LineKey
  /** Every terminal on it; the first is repeated on the line itself. */
  members: LineMember[]
  bus: LineBus | null
  /** True when the node sleeps between its readings. */
  sleeping: boolean
  /** True when this line is to end the sleep. */
  wakes: boolean
  /** True when what stands in the run turns its level round: high at the part is low at the pin. */
  inverted: boolean
  /** Input of a converter it ends at in place of a pin. */
  hosted: { partId: string; terminal: string; number: number } | null
  /** Pull resistors the design has added to it. */
  pulls: { level: 'high' | 'low'; ohm: number }[]
}

/**
 * Every line of the design that needs a pin, in the order of its parts and their terminals. Parts of unknown kind have
 * none.
 */
export function planLines(design: Design, catalog: Catalog): PlanLine[] {
  return linesFor(design, catalog).planned
}

/** Every line of the design, those at the inputs of a converter as well. */
export function allLines(design: Design, catalog: Catalog): PlanLine[] {
  return linesFor(design, catalog).all
}

/** Designs are never changed, only replaced: their lines are worked out once. */
const linesFor = rememberedOf((design, catalog) => {
  const all = readLines(design, catalog)
  return { all, planned: all.filter((l) => l.hosted === null) }
})

function readLines(design: Design, catalog: Catalog): PlanLine[] {
  const lines = new Map<LineKey, PlanLine>()
  for (const { id, value: part } of inOrder(design.parts)) {
    const kind = catalog.parts[part.kind]
    if (!kind) continue
    for (const terminal of linesOf(kind)) {
      const hosted = hostOf(design, catalog, part, terminal)
      const key = hosted ? lineKeyOf(id, terminal.id) : planKey(id, part, terminal)
      if (key === null) continue
      const through = terminalThrough(design, key, lineAsSet(kind, part.settings, terminal))
      const member = {
        partId: id,
        part,
        kind,
        terminal: through.terminal,
        channels: kind.channels.filter((c) => c.lines.includes(terminal.id)),
      }
      const first = lines.get(key)
      if (first) first.members.push(member)
      else {
        lines.set(key, {
          ...member,
          key,
          hosted,
          members: [member],
          inverted: through.inverted,
          bus: lineBus(id, part, terminal),
          sleeping: design.sleep !== null,
          wakes: design.sleep !== null && part.settings.wakes === 'yes',
          pulls: Object.values(design.added).flatMap((c) =>
            c.type === 'pull' && c.line === key ? [{ level: c.level, ohm: c.ohm }] : [],
          ),
        })
      }
    }
  }
  return [...lines.values()]
}

/** Parts of these buses share their lines unless they are told otherwise. */
const SHARED: Record<BusKind, string | null> = { i2c: 'a', spi: 'a', uart: null, 'one-wire': null }
const SHORT: Record<BusKind, string> = { i2c: 'i2c', spi: 'spi', uart: 'uart', 'one-wire': 'ow' }

/** Names under which bus lines are planned: no part may be called so. */
export const BUS_NAME = /^(i2c|spi|ow)[a-d]$/

/** Bus of a part: a letter, `own` where it shares with nobody, or `PART:N` behind branch N of a multiplexer. */
export function busOf(part: DesignPart, bus: BusKind): string {
  return part.bus ?? SHARED[bus] ?? 'own'
}

/** Key under which a terminal is planned; null when it ends at another part (behind a multiplexer) and needs no pin. */
export function planKey(partId: string, part: DesignPart, terminal: LineTerminal): LineKey | null {
  const { bus } = terminal
  if (!bus && terminal.needs === 'analog' && part.bus?.includes(':')) return null
  if (!bus || bus.kind === 'uart' || bus.role === 'cs') return lineKeyOf(partId, terminal.id)
  const on = busOf(part, bus.kind)
  if (on.includes(':')) return null
  return on === 'own' ? lineKeyOf(partId, terminal.id) : lineKeyOf(`${SHORT[bus.kind]}${on}`, bus.role)
}

/** The converter input an analog terminal ends at, where its part is put there. */
export function hostOf(design: Design, catalog: Catalog, part: DesignPart, terminal: LineTerminal): PlanLine['hosted'] {
  if (terminal.bus || terminal.needs !== 'analog' || !part.bus?.includes(':')) return null
  const [partId = '', n = ''] = part.bus.split(':')
  const input = catalog.parts[design.parts[partId]?.kind ?? '']?.terminals.find(
    (t) => t.role === 'contact' && t.does?.kind === 'input' && t.does.number === Number(n),
  )
  return input ? { partId, terminal: input.id, number: Number(n) } : null
}

/** The pin of a terminal in the accepted plan. */
export function pinOf(design: Design, partId: string, part: DesignPart, terminal: LineTerminal): string | undefined {
  const key = planKey(partId, part, terminal)
  return key === null ? undefined : design.plan.pins[key]
}

function lineBus(partId: string, part: DesignPart, terminal: LineTerminal): LineBus | null {
  const { bus } = terminal
  if (!bus) return null
  const on = bus.kind === 'uart' ? 'own' : busOf(part, bus.kind)
  return {
    kind: bus.kind,
    id: on === 'own' ? `${SHORT[bus.kind]} ${partId}` : `${SHORT[bus.kind]}${on}`,
    role: bus.role,
  }
}

/** `Ranger ECHO`, or `SDA of bus A` where several parts may meet. */
export function lineName(line: PlanLine): string {
  const [bus, role] = line.key.split('.')
  if (bus !== undefined && BUS_NAME.test(bus))
    return `${role?.toUpperCase() ?? ''} of ${line.bus ? BUS_WORDS[line.bus.kind] : ''} bus ${bus.slice(-1).toUpperCase()}`
  return `${line.part.label} ${line.terminal.label}`
}

export const BUS_WORDS: Record<BusKind, string> = { i2c: 'I²C', spi: 'SPI', uart: 'serial', 'one-wire': 'one-wire' }

import type { Catalog } from '../catalog/catalog'
import { type Does, type LoadKind, meansOf, type PartKind, supplyCurrents, type Terminal } from '../catalog/part'
import { type Design, type DesignPart, inOrder, lineKeyOf } from '../model/design'
import { rememberedOf } from '../model/remembered'

/** One thing that is switched: a load of the design, or one that a setting only names. Volts, amperes. */
export interface Load {
  /** Part of the design, or null where only a setting says what it is. */
  partId: string | null
  label: string
  kind: LoadKind
  volts: number
  ac: boolean
  runA: number
  startA: number
  /** It pumps, heats or moves something that can hurt or flood. */
  moves: boolean
  mains: boolean
  longestOnS: number | null
}

/** A contact, a stage or a driver output with what hangs on it. */
export interface Switch {
  partId: string
  part: DesignPart
  kind: PartKind
  terminal: Terminal
  /** Line that works it. */
  line: string
  way: 'closes' | 'opens' | 'sinks' | 'drives'
  loads: Load[]
  /** What this end and the common are joined to, as `PART.TERMINAL`; null where they are joined to nothing. */
  at: string | null
  commonAt: string | null
}

/** Every switch of the node that works something outside the board, with the loads joined to it. */
export const switchesOf: (design: Design, catalog: Catalog) => readonly Switch[] = rememberedOf((design, catalog) => {
  const parts = inOrder(design.parts).flatMap(({ id, value: part }) => {
    const kind = catalog.parts[part.kind]
    return kind ? [{ id, part, kind }] : []
  })
  return parts.flatMap(({ id, part, kind }) =>
    kind.terminals.flatMap((terminal): Switch[] => {
      const does = terminal.role === 'contact' ? terminal.does : undefined
      if (!does || !isSwitch(does)) return []
      const here = lineKeyOf(id, terminal.id)
      const common = kind.terminals.find(
        (t) => t.role === 'contact' && t.does?.kind === 'common' && t.does.of === does.of,
      )
      const loads = parts.flatMap((p) =>
        p.kind.load && hangsOn(p.part, here) ? [loadOf(design, catalog, p.id, p.part, p.kind)] : [],
      )
      const at = part.feeds[terminal.id] ?? parts.find((p) => !p.kind.load && hangsOn(p.part, here))?.id ?? null
      const commonAt = common ? (part.feeds[common.id] ?? null) : null
      return [{ partId: id, part, kind, terminal, line: does.of, way: does.kind, loads, at, commonAt }]
    }),
  )
})

type Switching = Extract<Does, { kind: 'closes' | 'opens' | 'sinks' | 'drives' }>
const isSwitch = (does: Does): does is Switching => ['closes', 'opens', 'sinks', 'drives'].includes(does.kind)

const hangsOn = (part: DesignPart, end: string): boolean => Object.values(part.feeds).includes(end)

/**
 * What the setting of a switching part says it works, where nothing of the design hangs on it yet; null for nothing.
 */
export function statedLoad(kind: PartKind, part: DesignPart): Load | null {
  const { load } = meansOf(kind, part.settings)
  if (!load) return null
  const of = kind.settings.find((s) => s.id === 'loadA')
  const runA = of && 'min' in of ? Number(part.settings[of.id] ?? of.default) : 0
  return {
    partId: null,
    label: part.label,
    kind: load.kind,
    volts: load.volts,
    ac: load.ac,
    runA,
    startA: runA * load.start,
    moves: load.moves,
    mains: load.mains,
    longestOnS: null,
  }
}

function loadOf(design: Design, catalog: Catalog, id: string, part: DesignPart, kind: PartKind): Load {
  const supply = kind.terminals.find((t) => t.role === 'supply')
  const rail = supply ? sourceOf(design, catalog, part.feeds[supply.id] ?? '') : null
  const { peakA, startA } =
    supply?.role === 'supply' ? supplyCurrents(supply, part.settings, kind) : { peakA: 0, startA: 0 }
  return {
    partId: id,
    label: part.label,
    kind: kind.load?.kind ?? 'unknown',
    volts: rail?.volts ?? (supply?.role === 'supply' ? supply.maxV : 0),
    ac: rail?.ac ?? false,
    runA: peakA,
    startA,
    moves: kind.load?.moves ?? false,
    mains: kind.load?.mains ?? false,
    longestOnS: kind.load?.longestOnS ?? null,
  }
}

/** The source a feed leads back to, through contacts. */
function sourceOf(design: Design, catalog: Catalog, feed: string, depth = 0): { volts: number; ac: boolean } | null {
  const [partId = '', id = ''] = feed.split('.')
  const part = design.parts[partId]
  const kind = catalog.parts[part?.kind ?? '']
  const t = kind?.terminals.find((x) => x.id === id)
  if (!part || !kind || !t || depth > 8) return null
  // Alternating voltages are rated by their nominal value.
  if (t.role === 'source') return { volts: t.kind === 'AC' ? (t.minV + t.maxV) / 2 : t.maxV, ac: t.kind === 'AC' }
  if (t.role !== 'contact' || !t.does || !('of' in t.does)) return null
  const { of } = t.does
  const common = kind.terminals.find((c) => c.role === 'contact' && c.does?.kind === 'common' && c.does.of === of)
  return common ? sourceOf(design, catalog, part.feeds[common.id] ?? '', depth + 1) : null
}

/** What a switching part works in truth: its joined loads, or what its setting names. */
export function worksOf(design: Design, catalog: Catalog, partId: string): Load[] {
  const part = design.parts[partId]
  const kind = catalog.parts[part?.kind ?? '']
  if (!part || !kind) return []
  const joined = switchesOf(design, catalog)
    .filter((s) => s.partId === partId)
    .flatMap((s) => s.loads)
  const stated = statedLoad(kind, part)
  if (joined.length > 0) return joined
  if (stated) return [stated]
  return []
}

/**
 * What each joined contact is while the node has no power, in words: one sentence a contact. A stage and a driver rest
 * without current as well.
 */
export function restsOf(design: Design, catalog: Catalog): string[] {
  const words = (end: string | null) => {
    const [partId = '', id = ''] = end?.split('.') ?? []
    const part = design.parts[partId]
    return part
      ? `${part.label} ${catalog.parts[part.kind]?.terminals.find((t) => t.id === id)?.label ?? ''}`.trim()
      : null
  }
  return switchesOf(design, catalog).flatMap((s): string[] => {
    if (s.loads.length === 0 && (s.at === null || s.commonAt === null)) return []
    const closed = s.way === 'opens'
    const what =
      s.loads.length > 0
        ? `${s.loads.map((l) => l.label).join(', ')} ${closed ? 'on' : 'off'}`
        : `${words(s.commonAt) ?? ''} and ${words(s.at) ?? ''} ${closed ? 'joined' : 'apart'}`
    const rest = closed ? 'rests closed' : 'rests open'
    return [
      `${s.part.label} ${s.terminal.label} ${s.way === 'sinks' || s.way === 'drives' ? 'rests without current' : rest}: ${what}.`,
    ]
  })
}

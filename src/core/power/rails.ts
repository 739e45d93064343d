import { type Board, FEED_DIODE_V } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import type { PartKind, SourceTerminal } from '../catalog/part'
import { type Design, type DesignPart, inOrder, lineKeyOf } from '../model/design'
import { remembered } from '../model/remembered'

/** A rail something can be fed from: the board's own, one that begins at a part, or one behind a contact. */
export interface FeedRail {
  id: string
  name: string
  /** Short name printed where it begins. */
  tag: string
  min: number
  max: number
  limitA: number
  source: string
  partId: string | null
  /** False where isolation from the mains is missing or not proven, here or anywhere it comes from. */
  isolated: boolean
  ac: boolean
  /** Rail it comes from, through a contact that a line switches. */
  through: string | null
}

/** All rails of a node: the board's, those of its feeding parts, and those behind contacts. Voltages V, currents A. */
export const railsOf: (design: Design, board: Board, catalog: Catalog) => FeedRail[] = remembered(
  (design, board, catalog) => {
    const parts = inOrder(design.parts).flatMap(({ id, value: part }) => {
      const kind = catalog.parts[part.kind]
      return kind ? [{ id, part, kind }] : []
    })
    const begun = parts.flatMap(({ id, part, kind }) =>
      kind.terminals.flatMap((t): FeedRail[] =>
        t.role === 'source'
          ? [
              {
                id: lineKeyOf(id, t.id),
                name: `${part.label} ${t.label}`,
                tag: t.label,
                min: t.minV,
                max: t.maxV,
                limitA: limitOf(t, part),
                source: part.label,
                partId: id,
                isolated: t.isolated,
                ac: t.kind === 'AC',
                through: null,
              },
            ]
          : [],
      ),
    )
    const proven = unprovenSettled(begun, parts)
    const fed = [...proven, ...switchedRails(proven, parts)]
    return [...boardRails(design, board, fed), ...fed]
  },
)

/** What a source gives: as the one in hand is marked, or as such parts are sold. */
function limitOf(t: SourceTerminal, part: DesignPart): number {
  const set = t.limitBy === undefined ? undefined : part.settings[t.limitBy]
  return typeof set === 'number' ? set : t.limitA
}

interface RailPart {
  id: string
  part: DesignPart
  kind: PartKind
}

/** A converter without isolation of its own passes on what its supply is. */
function unprovenSettled(rails: readonly FeedRail[], parts: readonly RailPart[]): FeedRail[] {
  const fromOf = new Map(parts.map(({ id, part, kind }) => [id, kind.isolates ? [] : Object.values(part.feeds)]))
  const isolated = (rail: FeedRail, above: readonly string[]): boolean =>
    rail.isolated &&
    (fromOf.get(rail.partId ?? '') ?? []).every((from) => {
      const parent = rails.find((r) => r.id === from)
      return !parent || above.includes(parent.id) || isolated(parent, [...above, parent.id])
    })
  return rails.map((r) => ({ ...r, isolated: isolated(r, [r.id]) }))
}

/** Behind each contact whose common is fed begins a rail that is alive only while the contact is closed. */
function switchedRails(begun: readonly FeedRail[], parts: readonly RailPart[]): FeedRail[] {
  const out: FeedRail[] = []
  for (const { id, part, kind } of parts) {
    for (const t of kind.terminals) {
      if (t.role !== 'contact' || (t.does?.kind !== 'closes' && t.does?.kind !== 'opens')) continue
      const { of } = t.does
      const common = kind.terminals.find((c) => c.role === 'contact' && c.does?.kind === 'common' && c.does.of === of)
      const from = common && begun.find((r) => r.id === part.feeds[common.id])
      if (from)
        out.push({
          ...from,
          id: lineKeyOf(id, t.id),
          name: `${part.label} ${t.label}`,
          tag: t.label,
          partId: id,
          through: from.id,
        })
    }
  }
  return out
}

function boardRails(design: Design, board: Board, fed: readonly FeedRail[]): FeedRail[] {
  const feeding = fed.find((r) => r.id === design.boardFeed)
  const own = { partId: null, isolated: true, ac: false, through: null }
  return board.rails.map((r): FeedRail => {
    const rail = {
      id: r.id,
      name: r.name,
      tag: r.id,
      min: r.min,
      max: r.max,
      limitA: r.limitA,
      source: r.source,
      ...own,
    }
    if (!feeding) return rail
    if (r.usbOnly) return { ...rail, min: 0, max: 0, limitA: 0, source: 'USB, which is not in' }
    if (r.id !== board.supply.rail) return { ...rail, isolated: feeding.isolated }
    // What feeds the board stands at its supply terminal, less the diode on the way; USB is then not connected.
    const diode = feedDiode(design) ? FEED_DIODE_V : { low: 0, high: 0 }
    return {
      ...rail,
      min: feeding.min - diode.high,
      max: feeding.max - diode.low,
      limitA: feeding.limitA,
      source: feeding.name,
      isolated: feeding.isolated,
    }
  })
}

/** The diode in the way of what feeds the board. */
export function feedDiode(design: Design): { id: string; name: string } | undefined {
  for (const [id, c] of Object.entries(design.added))
    if (c.type === 'feed-diode' && c.rail === design.boardFeed) return { id, name: c.names[0] }
  return undefined
}

export function railOf(design: Design, board: Board, catalog: Catalog, id: string | undefined): FeedRail | undefined {
  return id === undefined ? undefined : railsOf(design, board, catalog).find((r) => r.id === id)
}

/** How a rail suits a supply terminal. */
export type Suits = 'well' | 'nearly' | 'low' | 'high' | 'never'

/** Margins closer than this share are within what supplies and meters scatter. */
export const NEARLY = 0.02

/**
 * Does a rail suit a terminal that takes `minV` to `maxV`? `nearly`: beyond a limit by no more than two hundredths of
 * it; `low` and `high`: the spans meet, and at one end of the rail the part gets too little or too much; `never`: they
 * do not meet.
 */
export function railSuits(rail: { min: number; max: number }, { minV, maxV }: { minV: number; maxV: number }): Suits {
  if (rail.min >= minV - 1e-9 && rail.max <= maxV + 1e-9) return 'well'
  if (rail.max < minV || rail.min > maxV) return 'never'
  if (rail.min >= minV * (1 - NEARLY) - 1e-9 && rail.max <= maxV * (1 + NEARLY) + 1e-9) return 'nearly'
  return rail.max > maxV * (1 + NEARLY) + 1e-9 ? 'high' : 'low'
}

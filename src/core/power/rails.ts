import type { Board } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import { type Design, inOrder, lineKeyOf } from '../design/design'

/** A rail something can be fed from: the board's own, or one that begins at a part. `tag` is the short name printed where it begins. */
export interface FeedRail { id: string; name: string; tag: string; min: number; max: number; limitA: number; source: string; partId: string | null; isolated: boolean; ac: boolean }

/** The board's rail in front of its regulator. */
export const SUPPLY_RAIL = '5V'

/** All rails of a node: the board's, then those of its feeding parts. Voltages V, currents A. */
export function railsOf(design: Design, board: Board, catalog: Catalog): FeedRail[] {
  const fed = inOrder(design.parts).flatMap(({ id, value: part }) => (catalog.parts[part.kind]?.terminals ?? []).flatMap((t): FeedRail[] => (t.role === 'source' ? [{
    id: lineKeyOf(id, t.id), name: `${part.label} ${t.label}`, tag: t.label, min: t.minV, max: t.maxV, limitA: t.limitA, source: part.label, partId: id, isolated: t.isolated, ac: t.kind === 'AC',
  }] : [])))
  const feeding = fed.find((r) => r.id === design.boardFeed)
  const own = board.rails.map((r): FeedRail => ({
    ...r, tag: r.id, partId: null, isolated: true, ac: false,
    // What feeds the board stands at its supply terminal; USB is then not connected.
    ...(feeding && r.id === SUPPLY_RAIL ? { min: feeding.min, max: feeding.max, limitA: feeding.limitA, source: feeding.name } : {}),
  }))
  return [...own, ...fed]
}

export function railOf(design: Design, board: Board, catalog: Catalog, id: string | undefined): FeedRail | undefined {
  return id === undefined ? undefined : railsOf(design, board, catalog).find((r) => r.id === id)
}

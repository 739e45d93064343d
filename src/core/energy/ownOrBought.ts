import { billOf } from '../bill/bill'
import type { Catalog } from '../catalog/catalog'
import { YEAR_H } from '../units/hours'
import type { Design } from '../model/design'

export interface Side {
  places: number
  /** Parts in whole packs, and cells for a year. */
  own: number
  bought: number
}

export interface Compared {
  sides: Side[]
  /** From this many places on own ones cost less; null where they never do within a hundred. */
  breakEven: number | null
  notReadyMade: string[]
}

/**
 * Own nodes against ready-made ones for one, six and twelve places, in the shop's currency: parts in whole packs, cells a
 * year, hours at their price; ready-made with one hub.
 */
export function ownOrBought(
  design: Design,
  catalog: Catalog,
  given: { lifeH: number | null; hub: number; hourPrice: number; hoursEach: number },
): Compared {
  const bill = billOf(design, catalog)
  const [cellId = ''] = design.boardFeed?.split('.') ?? []
  const cell = catalog.parts[design.parts[cellId]?.kind ?? '']
  const cellsAYear = given.lifeH && cell?.cell && !cell.cell.rechargeable ? (YEAR_H / given.lifeH) * cell.cost.each : 0
  const own = (n: number) =>
    bill.rows.reduce((sum, r) => sum + Math.ceil((r.count * n) / r.pack) * r.pack * r.each, 0) +
    n * (cellsAYear + given.hoursEach * given.hourPrice)
  const bought = (n: number) => n * bill.readyMade + given.hub
  const breakEven =
    bill.readyMade > 0 ? Array.from({ length: 100 }, (_, i) => i + 1).find((n) => own(n) <= bought(n)) : undefined
  return {
    sides: [1, 6, 12].map((places) => ({ places, own: own(places), bought: bought(places) })),
    breakEven: breakEven ?? null,
    notReadyMade: bill.notReadyMade,
  }
}

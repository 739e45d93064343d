import { type Design, inOrder } from '../model/design'
import type { Catalog } from '../catalog/catalog'

export interface BillRow {
  id: string
  name: string
  count: number
  /** What one costs, in the shop's own currency. */
  each: number
  pack: number
  /** Whole packs to buy for this count. */
  packs: number
  cost: number
  /** True when the price is the user's own, not the catalogue's. */
  own: boolean
}

export interface Bill {
  rows: BillRow[]
  /** What has to be bought, whole packs. */
  total: number
  /** What is used of it. */
  used: number
  /**
   * What ready-made devices that do the same cost, without their hub; parts nobody sells ready made are left out and
   * named.
   */
  readyMade: number
  notReadyMade: string[]
}

/** What a node is made of and costs: the board and every part, packs rounded up. */
export function billOf(design: Design, catalog: Catalog): Bill {
  const counts = new Map<string, number>([[design.board.id, 1]])
  for (const { value } of inOrder(design.parts)) counts.set(value.kind, (counts.get(value.kind) ?? 0) + 1)
  let readyMade = 0
  const notReadyMade: string[] = []
  const rows = [...counts].flatMap(([id, count]): BillRow[] => {
    const part = catalog.parts[id]
    const item = part ?? catalog.boards[id]
    if (!item) return []
    if (part && part.channels.length > 0) {
      if (part.readyMade === null) notReadyMade.push(part.name)
      else readyMade += part.readyMade * count
    }
    const own = design.costs[id]
    const each = own ?? item.cost.each
    const packs = Math.ceil(count / item.cost.pack)
    return [
      {
        id,
        name: item.name,
        count,
        each,
        pack: item.cost.pack,
        packs,
        cost: packs * item.cost.pack * each,
        own: own !== undefined,
      },
    ]
  })
  return {
    rows,
    total: rows.reduce((s, r) => s + r.cost, 0),
    used: rows.reduce((s, r) => s + r.count * r.each, 0),
    readyMade,
    notReadyMade,
  }
}

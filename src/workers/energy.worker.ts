import { builtInCatalog, type CatalogItems, withItems } from '../core/catalog/catalog'
import { cycleOf } from '../core/energy/cycle'
import { type Drawn, drawLife } from '../core/energy/draws'
import type { Design } from '../core/model/design'

export interface EnergyRequest {
  design: Design
  items: CatalogItems
}

/** Life by a hundred thousand draws; null where no cell feeds the node. */
self.onmessage = ({ data: { design, items } }: MessageEvent<EnergyRequest>) => {
  const catalog = withItems(builtInCatalog, items)
  const board = catalog.boards[design.board.id]
  const cycle = board && cycleOf(design, board, catalog)
  self.postMessage((cycle ? drawLife(cycle) : null) satisfies Drawn | null)
}

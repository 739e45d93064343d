import { builtInCatalog, type CatalogItems, withItems } from '../core/catalog/catalog'
import { cycleOf, WINTER } from '../core/energy/cycle'
import { type Drawn, drawLife } from '../core/energy/draws'
import { type Lever, levers } from '../core/energy/levers'
import type { Design } from '../core/model/design'

export interface EnergyRequest {
  design: Design
  items: CatalogItems
}
export interface EnergyReply {
  /** Life by a hundred thousand draws. */
  drawn: Drawn
  /** The same outside in winter. */
  winter: Drawn
  levers: Lever[]
}

const newId = (): string =>
  Array.from(crypto.getRandomValues(new Uint8Array(10)), (b) => 'abcdefghijkmnpqrstuvwxyz23456789'[b % 32]).join('')

/** What takes longer than a frame: draws, and every change tried; null where no cell feeds the node. */
self.onmessage = ({ data: { design, items } }: MessageEvent<EnergyRequest>) => {
  const catalog = withItems(builtInCatalog, items)
  const board = catalog.boards[design.board.id]
  const cycle = board && cycleOf(design, board, catalog)
  const winter = board && cycleOf(design, board, catalog, WINTER)
  const reply: EnergyReply | null =
    cycle && winter
      ? { drawn: drawLife(cycle), winter: drawLife(winter), levers: levers(design, catalog, newId) }
      : null
  self.postMessage(reply)
}

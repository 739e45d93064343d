import { builtInCatalog, type CatalogItems, withItems } from '../core/catalog/catalog'
import { type Proposed, propose, type Wish } from '../core/proposals/propose'

export interface ProposeRequest {
  wish: Wish
  items: CatalogItems
}
export interface ProposeReply {
  done: boolean
  proposed: Proposed
}

/** Proposals for a wish, each told as soon as it is found. */
self.onmessage = ({ data: { wish, items } }: MessageEvent<ProposeRequest>) => {
  const catalog = withItems(builtInCatalog, items)
  const tell = (reply: ProposeReply) => self.postMessage(reply)
  const proposed = propose(wish, catalog, (soFar) => tell({ done: false, proposed: soFar }))
  tell({ done: true, proposed })
}

import { builtInCatalog, type CatalogItems, withItems } from '../core/catalog/catalog'
import type { Design } from '../core/design/design'
import { planPins, type PinPlan } from '../core/pins/planPins'
import { type RankedBoard, rankBoards } from '../core/pins/rankBoards'
import { type Freeing, freeingEdits } from '../core/pins/remedies'

export type PlanRequest = { id: number; what: 'afresh' | 'boards' | 'frees'; design: Design; items: CatalogItems }
export type PlanReply =
  | { id: number; kind: 'progress'; explored: number; best: PinPlan | null }
  | { id: number; kind: 'plan'; plan: PinPlan }
  | { id: number; kind: 'boards'; boards: RankedBoard[] }
  | { id: number; kind: 'frees'; frees: Freeing[] }

const TELL_MS = 150

self.onmessage = ({ data: { id, what, design, items } }: MessageEvent<PlanRequest>) => {
  const catalog = withItems(builtInCatalog, items)
  const tell = (reply: PlanReply) => self.postMessage(reply)
  let told = performance.now()
  const watch = (at: { explored: number; best: PinPlan | null }) => {
    if (performance.now() - told > TELL_MS) {
      told = performance.now()
      tell({ id, kind: 'progress', explored: at.explored, best: at.best })
    }
    return false
  }
  if (what === 'afresh') tell({ id, kind: 'plan', plan: planPins(design, catalog, { past: 'afresh', stop: watch }) })
  else if (what === 'boards') tell({ id, kind: 'boards', boards: rankBoards(design, catalog, () => false) })
  else tell({ id, kind: 'frees', frees: freeingEdits(design, catalog, () => Array.from(crypto.getRandomValues(new Uint8Array(10)), (b) => 'abcdefghijkmnpqrstuvwxyz23456789'[b % 32]).join('')) })
}

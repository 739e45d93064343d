import { builtInCatalog, type CatalogItems, withItems } from '../core/catalog/catalog'
import type { Design } from '../core/model/design'
import { planPins, type PinPlan } from '../core/pins/planPins'
import { inRank, rankBoard, type RankedBoard } from '../core/alternatives/rankBoards'
import { type Freeing, freeingEdits } from '../core/alternatives/remedies'

/** What can be asked for, and what comes back: `so far` is told while it goes on and stands when it is stopped. */
export interface PlanResults {
  afresh: PinPlan
  boards: RankedBoard[]
  frees: Freeing[]
}
export type PlanWhat = keyof PlanResults
export interface PlanRequest {
  what: PlanWhat
  design: Design
  items: CatalogItems
}
export interface PlanReply {
  done: boolean
  result: PlanResults[PlanWhat] | null
  words: string
}

const TELL_MS = 150
/** Time one board may take of the ranking; what is not proven by then is said to be so. */
const BOARD_MS = 2500

self.onmessage = ({ data: { what, design, items } }: MessageEvent<PlanRequest>) => {
  const catalog = withItems(builtInCatalog, items)
  const tell = (reply: PlanReply) => self.postMessage(reply)
  let told = performance.now()
  const now = (result: PlanReply['result'], words: string) => {
    if (performance.now() - told < TELL_MS) return
    told = performance.now()
    tell({ done: false, result, words })
  }
  if (what === 'afresh') {
    const plan = planPins(design, catalog, {
      past: 'afresh',
      stop: (at) => {
        now(at.best, `${at.explored} parts seen`)
        return false
      },
    })
    tell({ done: true, result: plan, words: '' })
  } else if (what === 'boards') {
    const boards = Object.values(catalog.boards)
    const ranked: RankedBoard[] = []
    for (const [i, board] of boards.entries()) {
      const end = performance.now() + BOARD_MS
      ranked.push(rankBoard(design, catalog, board, () => performance.now() > end))
      tell({ done: i === boards.length - 1, result: inRank(ranked), words: `${i + 1} of ${boards.length} boards` })
    }
  } else {
    const newId = () =>
      Array.from(crypto.getRandomValues(new Uint8Array(10)), (b) => 'abcdefghijkmnpqrstuvwxyz23456789'[b % 32]).join('')
    tell({ done: true, result: freeingEdits(design, catalog, newId), words: '' })
  }
}

import type { Board } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import { cautionsOf } from '../catalog/part'
import { type Design, inOrder } from '../model/design'
import { remembered } from '../model/remembered'
import { boxSteps, siteSteps, trialSteps } from './afterwards'
import { dividerSteps } from './dividers'
import { failSafeSteps } from './failSafe'
import { handSteps } from './hand'
import { chipSteps, railOhmSteps, railVoltSteps } from './rails'
import type { BringUpStep } from './step'
import { networkSteps, startSteps, writingSteps } from './writing'

/** A design with what the steps are made from. */
export interface BringingUp {
  design: Design
  board: Board
  catalog: Catalog
  /** Something it switches or measures is at mains voltage. */
  mains: boolean
}

const BUILDERS: readonly ((of: BringingUp) => BringUpStep[])[] = [
  railOhmSteps,
  railVoltSteps,
  chipSteps,
  dividerSteps,
  writingSteps,
  startSteps,
  networkSteps,
  handSteps,
  failSafeSteps,
  boxSteps,
  siteSteps,
  trialSteps,
]

/** All steps of bringing this node up, stage by stage. A stage that has nothing to do with it has no steps. */
export const bringUpPlan: (design: Design, board: Board, catalog: Catalog) => BringUpStep[] = remembered(
  (design, board, catalog) => {
    const mains = inOrder(design.parts).some(({ value: part }) => {
      const kind = catalog.parts[part.kind]
      return kind !== undefined && cautionsOf(kind, part.settings).some((c) => c.caution.mains)
    })
    return BUILDERS.flatMap((build) => build({ design, board, catalog, mains }))
  },
)

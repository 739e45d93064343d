import { type CatalogItems, builtInCatalog, withItems } from '../../core/catalog/catalog'
import { runChecks } from '../../core/checks/runChecks'
import { applyEdit } from '../../core/edits/apply'
import type { Design } from '../../core/model/design'
import type { EditBody } from '../../core/edits/edit'
import { compile } from '../../core/nodefile/compile'
import type { BrokerAddress } from '../../core/publish/describe'
import type { Surroundings } from '../../core/surroundings/surroundings'
import { wiringOf } from '../../core/wiring/netlist'
import { workSteps } from '../../core/wiring/workSteps'

/**
 * What is derived from a design on the server, the same beside the server as inside it. `items`: what the shop has on
 * its shelf.
 */
export const WORK = {
  apply: (items: CatalogItems, design: Design, body: EditBody) =>
    applyEdit(design, body, withItems(builtInCatalog, items)),
  checks: (items: CatalogItems, design: Design, around: Surroundings) =>
    runChecks(design, withItems(builtInCatalog, items), undefined, around),
  compile: (items: CatalogItems, design: Design, around: Surroundings, broker: BrokerAddress, revision: number) =>
    compile(design, around, withItems(builtInCatalog, items), broker, revision),
  steps: (items: CatalogItems, design: Design) => {
    const catalog = withItems(builtInCatalog, items)
    return workSteps(design, catalog, wiringOf(design, catalog))
  },
} as const

export type WorkName = keyof typeof WORK
/** Everything of a piece of work but the shelf and the design. */
export type WorkArguments<N extends WorkName> =
  Parameters<(typeof WORK)[N]> extends [CatalogItems, Design, ...infer Rest] ? Rest : never
export type WorkResult<N extends WorkName> = ReturnType<(typeof WORK)[N]>

import type { Catalog } from '../catalog/catalog'
import type { Design } from '../model/design'
import { applyEdit } from './apply'
import type { EditBody } from './edit'

/** The design after all of these edits, or which of them is refused and why. */
export function applyAll(
  design: Design,
  edits: readonly EditBody[],
  catalog: Catalog,
): { design: Design } | { reason: string } {
  let at = design
  for (const [i, edit] of edits.entries()) {
    const applied = applyEdit(at, edit, catalog)
    if (!applied.ok)
      return { reason: `Step ${i + 1} (${edit.kind}): ${applied.reason}; accepted is ${applied.accepts}.` }
    at = applied.design
  }
  return { design: at }
}

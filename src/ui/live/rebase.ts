import type { Catalog } from '../../core/catalog/catalog'
import { applyEdit } from '../../core/design/apply'
import { type Change, changesMeet } from '../../core/design/changes'
import type { Design } from '../../core/design/design'
import type { EditBody } from '../../core/design/edit'

export interface PendingEdit {
  id: string
  body: EditBody
  words: string
  at: string
}
export interface Rebased {
  design: Design
  kept: PendingEdit[]
  dropped: { edit: PendingEdit; reason: string }[]
}

/**
 * Own unsaved edits on top of a design that has moved on. Those that touch what others changed are dropped, with the
 * reason.
 */
export function rebase(
  server: Design,
  pending: readonly PendingEdit[],
  others: readonly Change[],
  catalog: Catalog,
): Rebased {
  const out: Rebased = { design: server, kept: [], dropped: [] }
  for (const edit of pending) {
    const applied = applyEdit(out.design, edit.body, catalog)
    if (!applied.ok) out.dropped.push({ edit, reason: applied.reason })
    else if (changesMeet(userPlaces(applied.changes), userPlaces(others)))
      out.dropped.push({ edit, reason: 'the same place was changed elsewhere' })
    else {
      out.design = applied.design
      out.kept.push(edit)
    }
  }
  return out
}

/** Plan and wire numbers follow by themselves; only what a person chose counts as touching the same thing. */
function userPlaces(changes: readonly Change[]): Change[] {
  return changes.filter((c) => c.path[0] !== 'wires' && c.path[0] !== 'plan')
}

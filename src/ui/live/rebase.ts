import type { Catalog } from '../../core/catalog/catalog'
import { applyEdit, touchedBy } from '../../core/edits/apply'
import { type Change, changesMeet } from '../../core/documents/changes'
import type { Design } from '../../core/model/design'
import type { EditBody } from '../../core/edits/edit'

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
 * Own unsaved edits on top of a design that has moved on. Those that touch what others chose are dropped, with the
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
    else if (changesMeet(chosenBy(edit.body, applied.changes), others))
      out.dropped.push({ edit, reason: 'the same place was changed elsewhere' })
    else {
      out.design = applied.design
      out.kept.push(edit)
    }
  }
  return out
}

/** What a person changed with an edit. Pins and wire numbers that only followed are nobody's word. */
export function chosenBy(edit: EditBody, changes: readonly Change[]): Change[] {
  const touched = touchedBy(edit)
  return changes.filter((c) => touched.includes(c.path[0] ?? ''))
}

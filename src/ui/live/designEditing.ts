import type { Catalog } from '../../core/catalog/catalog'
import { applyEdit, editWords, touchedBy } from '../../core/edits/apply'
import { type EditBody, editBodySchema } from '../../core/edits/edit'
import type { Design } from '../../core/model/design'
import { editedDocument } from './edited'

/** Designs of nodes as a tab edits them; `catalog` is asked for each time. */
export const designEditing = (catalog: () => Catalog) =>
  editedDocument<Design, EditBody>({
    schema: editBodySchema,
    apply: (design, body) => {
      const applied = applyEdit(design, body, catalog())
      return applied.ok ? { ok: true, value: applied.design, changes: applied.changes } : applied
    },
    words: editWords,
    touches: touchedBy,
  })

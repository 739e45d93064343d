import { type Catalog, withItems } from '../catalog/catalog'
import type { Change } from '../documents/changes'
import { editing } from '../documents/editing'
import type { Refused } from '../documents/editKind'
import { type Design, designSchema } from '../model/design'
import { type BrokenReference, brokenReferences } from '../model/references'
import { isReservedNode } from '../model/reserved'
import type { EditBody } from './edit'
import { DESIGN_EDITS } from './kinds'
import { normalize } from './normalize'

const design = editing<Design, Catalog>({ schema: designSchema, normalize, newlyWrong, placeName }, DESIGN_EDITS)

export type AppliedEdit =
  { ok: true; design: Design; changes: Change[] } | { ok: false; reason: string; accepts: string }

/**
 * The design after one edit, with all it brings along, or why not and what would be accepted. The given design is not
 * changed.
 */
export function applyEdit(before: Design, edit: EditBody, catalog: Catalog): AppliedEdit {
  const applied = design.apply(before, edit, catalog)
  return applied.ok ? { ok: true, design: applied.value, changes: applied.changes } : applied
}

/** The edit that takes back what `edit` does to `design`. Refuses later if someone has changed the same place since. */
export const invertEdit: (design: Design, edit: EditBody, catalog: Catalog) => EditBody | null = design.invert

/** What an edit does, in a few words, for undo and history. `design` is the one before it. */
export const editWords: (edit: EditBody, design: Design) => string = design.words

/** Top-level fields of the design that a person changes with it; what else changes follows by itself. */
export const touchedBy: (edit: EditBody) => readonly string[] = design.touches

/**
 * What an edit may not do, whichever it is: become another document, or name what is not there and was not named
 * before.
 */
function newlyWrong(before: Design, after: Design, catalog: Catalog): Refused | null {
  if (after.id !== before.id || String(after.format) !== before.format)
    return { refused: 'the identity of a design is not changed', accepts: 'anything else of it' }
  if (after.slug !== before.slug && isReservedNode(after.slug))
    return { refused: `“${after.slug}” has a meaning of its own in the topics`, accepts: 'another short name' }
  const wrong = brokenReferences(after, withItems(catalog, after.items))
  if (wrong.length === 0) return null
  const key = (w: BrokenReference) => `${w.path.join(' ')} ${w.found}`
  const already = brokenReferences(before, withItems(catalog, before.items))
  const stood = new Set(already.map(key))
  // What rests on a name that was missing was not looked at before: it is not new because the name has come back.
  const named = already.some((w) => w.word !== undefined)
  const fresh = wrong.find((w) => !stood.has(key(w)) && (!named || w.word !== undefined))
  return fresh ? { refused: `${fresh.path.join(' › ')}: ${fresh.found}`, accepts: fresh.expected } : null
}

function placeName(design: Design, path: readonly string[]): string {
  const [collection, id] = path
  if (collection === 'signals' && id !== undefined) return design.signals[id]?.tag ?? 'a signal'
  if (collection === 'parts' && id !== undefined) return design.parts[id]?.label ?? 'a part'
  return `“${path.join(' › ')}”`
}

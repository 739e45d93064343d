import { z } from 'zod'
import { type Problem, readDocument } from '../documents/readDocument'
import { canonicalJson } from '../hash/canonicalJson'
import { type Board, boardSchema } from './board'
import { builtInCatalog, type Catalog } from './catalog'
import { type PartKind, partKindSchema } from './part'
import { renewItem } from './renew'

export type Item = { kind: 'boards'; value: Board } | { kind: 'parts'; value: PartKind }

export type ReadItem = { ok: true; item: Item } | { ok: false; problems: Problem[] }

const anyFormat = z.looseObject({ format: z.enum(['vivid-node/board', 'vivid-node/part']) })

/** A board or part kind from a user's file. Nothing is taken from a file in which anything is wrong. */
export function readItem(text: string): ReadItem {
  const format = readDocument(text, anyFormat)
  if (!format.ok) return format
  if (format.value.format === 'vivid-node/board') {
    const board = readDocument(text, boardSchema, renewItem)
    return board.ok ? { ok: true, item: { kind: 'boards', value: board.value } } : board
  }
  const part = readDocument(text, partKindSchema, renewItem)
  return part.ok ? { ok: true, item: { kind: 'parts', value: part.value } } : part
}

/** The file of an item: what reading it and writing it again gives unchanged. */
export function itemText(item: Board | PartKind): string {
  const ordered = item.format === 'vivid-node/board' ? boardSchema.parse(item) : partKindSchema.parse(item)
  return `${JSON.stringify(ordered, null, 1)}\n`
}

/**
 * Why an item may not be put on the shelf, or null. What ships stays as it is; what a user brought changes only with a
 * higher version.
 */
export function itemClash(catalog: Catalog, item: Item): string | null {
  const { id, version } = item.value
  if (builtInCatalog[item.kind][id]) {
    return canonicalJson(builtInCatalog[item.kind][id]) === canonicalJson(item.value)
      ? null
      : `“${id}” ships with the product and cannot be replaced: give yours an id of its own`
  }
  const there = catalog[item.kind][id]
  if (!there || canonicalJson(there) === canonicalJson(item.value)) return null
  return version > there.version
    ? null
    : `“${id}” is on the shelf in version ${there.version}: a changed one needs version ${there.version + 1} or higher`
}

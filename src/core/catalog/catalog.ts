import { boardFiles, partFiles } from '../../../catalog/index'
import type { Board } from './board'
import type { PartKind } from './part'

/** Boards and part kinds by id. A design names both by id. */
export interface Catalog {
  boards: Readonly<Record<string, Board>>
  parts: Readonly<Record<string, PartKind>>
}

/** What a design or a user brings along beside what ships with the product. */
export interface CatalogItems {
  boards: readonly Board[]
  parts: readonly PartKind[]
}

/** Without a prototype, so that a name such as “constructor” finds nothing. */
const byId = <T extends { id: string }>(items: readonly T[]): Record<string, T> =>
  Object.assign(Object.create(null) as Record<string, T>, Object.fromEntries(items.map((i) => [i.id, i])))

/**
 * The catalogue that ships with the product. Its files are whole, with nothing left to what is usual, and pass the
 * schema a user's file has to pass: a test sees to that, once, so that neither a start nor a page has to.
 */
export const builtInCatalog: Catalog = {
  boards: byId(boardFiles as unknown as readonly Board[]),
  parts: byId(partFiles as unknown as readonly PartKind[]),
}

/** A catalogue with more items in it; those of an id that is there already take its place. */
export function withItems(catalog: Catalog, { boards, parts }: CatalogItems): Catalog {
  if (boards.length === 0 && parts.length === 0) return catalog
  return {
    boards: byId([...Object.values(catalog.boards), ...boards]),
    parts: byId([...Object.values(catalog.parts), ...parts]),
  }
}

export function isBuiltIn(kind: 'boards' | 'parts', id: string): boolean {
  return builtInCatalog[kind][id] !== undefined
}

import { type Catalog, isBuiltIn } from '../catalog/catalog'
import type { Design } from '../model/design'

/** Copies of the catalogue items a design uses and the product does not ship. */
export function carried(
  design: Design,
  catalog: Catalog,
  more: { boards?: string[]; parts?: string[] },
): Design['items'] {
  const parts = [...new Set([...design.items.parts.map((p) => p.id), ...(more.parts ?? [])])].filter(
    (id) => !isBuiltIn('parts', id),
  )
  const boards = [...new Set([...design.items.boards.map((b) => b.id), ...(more.boards ?? [])])].filter(
    (id) => !isBuiltIn('boards', id),
  )
  if (parts.length === 0 && boards.length === 0) return design.items
  return {
    boards: boards.flatMap((id) => catalog.boards[id] ?? []),
    parts: parts.flatMap((id) => catalog.parts[id] ?? []),
  }
}

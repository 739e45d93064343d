import type { Board } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import type { Design } from './design'

/**
 * What `work` makes of a design, worked out once: designs are never changed, only replaced. One value is kept for a
 * design, and goes with it; another catalogue or board takes its place. Nobody may change what is given out.
 */
export function remembered<T>(work: (design: Design, board: Board, catalog: Catalog) => T) {
  const known = new WeakMap<Design, { board: Board; catalog: Catalog; value: T }>()
  return (design: Design, board: Board, catalog: Catalog): T => {
    const before = known.get(design)
    if (before?.catalog === catalog && before.board === board) return before.value
    const value = work(design, board, catalog)
    known.set(design, { board, catalog, value })
    return value
  }
}

/** The same for what needs no board. */
export function rememberedOf<T>(work: (design: Design, catalog: Catalog) => T) {
  const known = new WeakMap<Design, { catalog: Catalog; value: T }>()
  return (design: Design, catalog: Catalog): T => {
    const before = known.get(design)
    if (before?.catalog === catalog) return before.value
    const value = work(design, catalog)
    known.set(design, { catalog, value })
    return value
  }
}

import type { Catalog } from '../catalog/catalog'
import type { Design } from '../model/design'

/** The part that switches this rail, or one it hangs on, with the node's sleep; null where it is always fed. */
export function switchOf(design: Design, catalog: Catalog, rail: string, depth = 0): string | null {
  const [partId = '', terminal] = rail.split('.')
  const part = design.parts[partId]
  const kind = catalog.parts[part?.kind ?? '']
  if (terminal === undefined || !part || !kind || depth > 6) return null
  if (kind.railSwitch?.out === terminal) return partId
  for (const t of kind.terminals) {
    const from = t.role === 'supply' ? part.feeds[t.id] : undefined
    const found = from === undefined ? null : switchOf(design, catalog, from, depth + 1)
    if (found !== null) return found
  }
  return null
}

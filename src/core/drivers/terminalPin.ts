import type { Catalog } from '../catalog/catalog'
import { type PartKind, terminalOf } from '../catalog/part'
import { hostOf, pinOf } from '../lines/lines'
import type { Design } from '../model/design'

/** Printed label of the pin a terminal ends at; behind a multiplexer that of the multiplexer's own line. */
export function terminalPin(
  design: Design,
  partId: string,
  kind: PartKind,
  id: string,
  catalog: Catalog,
): string | undefined {
  const terminal = terminalOf(kind, id)
  const part = design.parts[partId]
  if (!part || terminal?.role !== 'line') return undefined
  const hosted = hostOf(design, catalog, part, terminal)
  const hostKind = hosted && catalog.parts[design.parts[hosted.partId]?.kind ?? '']
  if (hosted && hostKind) return terminalPin(design, hosted.partId, hostKind, 'sda', catalog)
  const [behind] = terminal.bus?.kind === 'i2c' && part.bus?.includes(':') ? part.bus.split(':') : []
  const front = behind === undefined ? undefined : design.parts[behind]
  const frontKind = front && catalog.parts[front.kind]
  if (behind === undefined || !frontKind) return pinOf(design, partId, part, terminal)
  const same = frontKind.terminals.find(
    (t) => t.role === 'line' && t.bus?.kind === 'i2c' && t.bus.role === terminal.bus?.role,
  )
  return same ? terminalPin(design, behind, frontKind, same.id, catalog) : undefined
}

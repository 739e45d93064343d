import type { Catalog } from '../catalog/catalog'
import { type Channel, type LineTerminal, linesOf, type PartKind } from '../catalog/part'
import { type Design, type DesignPart, inOrder, type LineKey, lineKeyOf } from '../design/design'

/** A terminal of the design that needs a pin, with all that judging a pin for it takes. */
export interface PlanLine {
  key: LineKey
  partId: string
  part: DesignPart
  kind: PartKind
  terminal: LineTerminal
  channels: Channel[]
}

/** Every line of the design in the order of its parts and their terminals. Parts of unknown kind have none. */
export function planLines(design: Design, catalog: Catalog): PlanLine[] {
  return inOrder(design.parts).flatMap(({ id, value: part }) => {
    const kind = catalog.parts[part.kind]
    if (!kind) return []
    return linesOf(kind).map((terminal) => ({
      key: lineKeyOf(id, terminal.id), partId: id, part, kind, terminal,
      channels: kind.channels.filter((c) => c.lines.includes(terminal.id)),
    }))
  })
}

/** `Ranger ECHO`. */
export function lineName(line: PlanLine): string {
  return `${line.part.label} ${line.terminal.label}`
}

import type { Catalog } from '../catalog/catalog'
import { type Does, type LineTerminal, type Meaning, meansOf, type PartKind } from '../catalog/part'
import type { Design, DesignPart } from '../model/design'
import type { PlanLine } from '../lines/lines'

/** A voltage that comes with the wires of another installation, V. */
export type Carried = NonNullable<Meaning['carries']>

/** Above this an output does not come from electronics beside the board, V. */
const FOREIGN_ABOVE_V = 6

/** The voltage a line brings along from another installation. */
export function carriedBy(line: PlanLine): Carried | null {
  const terminal = line.kind.terminals.find((t) => t.role === 'line' && t.id === line.terminal.id)
  return terminal?.role === 'line' ? carried(line.kind, line.part, terminal) : null
}

function carried(kind: PartKind, part: DesignPart, terminal: LineTerminal): Carried | null {
  const set = meansOf(kind, part.settings).carries
  if (set) return set
  const { output } = terminal
  return output?.kind === 'fixed' && output.highMaxV > FOREIGN_ABOVE_V
    ? { minV: output.highMinV, maxV: output.highMaxV, ac: false }
    : null
}

/** True for a part whose isolation from the mains is missing or not proven, as it is set. */
export function isUnproven(kind: PartKind, part: DesignPart): boolean {
  return (
    kind.terminals.some((t) => t.role === 'source' && !t.isolated) || meansOf(kind, part.settings).carries !== undefined
  )
}

/**
 * A terminal of a device that was there before, as something is joined to it: which part, what is printed there, and
 * what it does.
 */
export type ForeignEnd = Extract<Does, { kind: 'foreign' }> & {
  partId: string
  terminal: string
  label: string
  name: string
}

/** The foreign terminal an end `PART.TERMINAL` stands for; null for anything else. */
export function foreignEnd(design: Design, catalog: Catalog, end: string | null | undefined): ForeignEnd | null {
  const [partId = '', terminal = ''] = end?.split('.') ?? []
  const part = design.parts[partId]
  const t = catalog.parts[part?.kind ?? '']?.terminals.find((x) => x.id === terminal)
  return part && t?.role === 'contact' && t.does?.kind === 'foreign'
    ? { ...t.does, partId, terminal, label: part.label, name: t.label }
    : null
}

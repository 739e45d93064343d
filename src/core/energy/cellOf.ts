import type { Catalog } from '../catalog/catalog'
import type { PartKind } from '../catalog/part'
import type { Design, DesignPart } from '../model/design'
import { CELLS, type CellFacts, meanVoltage } from './chemistries'

/** The cell a node lives on, and what lies between it and the board. */
export interface FeedingCell {
  partId: string
  part: DesignPart
  kind: PartKind
  cell: NonNullable<PartKind['cell']>
  facts: CellFacts
  /** Cells in series and side by side. */
  series: number
  parallel: number
  capacityAh: number
  /** Converter between it and the board, with what it needs and gives, V; null where it feeds the board directly. */
  converter: { partId: string; inMinV: number; outV: number; restA: number } | null
}

/** The cell that feeds the board, through a converter or not; null where none does. */
export function cellOf(design: Design, catalog: Catalog): FeedingCell | null {
  let rail = design.boardFeed
  let converter: FeedingCell['converter'] = null
  for (let hop = 0; hop < 4 && rail !== null; hop++) {
    const [partId = '', terminal = ''] = rail.split('.')
    const part = design.parts[partId]
    const kind = catalog.parts[part?.kind ?? '']
    const source = kind?.terminals.find((t) => t.id === terminal)
    if (!part || !kind || source?.role !== 'source') return null
    if (kind.cell) {
      const facts = CELLS[kind.cell.chemistry]
      const parallel = Math.max(1, Math.round(Number(part.settings.parallel ?? 1)))
      return {
        partId,
        part,
        kind,
        cell: kind.cell,
        facts,
        series: Math.max(1, Math.round(source.maxV / facts.fullV)),
        parallel,
        capacityAh: kind.cell.capacityAh * parallel,
        converter,
      }
    }
    const supply = kind.terminals.find((t) => t.role === 'supply')
    if (supply?.role !== 'supply') return null
    // A charging board passes the cell on as it is.
    if (!kind.charger)
      converter = {
        partId,
        inMinV: supply.minV,
        outV: (source.minV + source.maxV) / 2,
        restA: supply.idleA,
      }
    rail = part.feeds[supply.id] ?? null
  }
  return null
}

/** Voltage of the whole pack on average, V. */
export const packVoltage = ({ facts, series }: FeedingCell): number => meanVoltage(facts.curve) * series

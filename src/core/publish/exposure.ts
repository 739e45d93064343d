import type { Catalog } from '../catalog/catalog'
import { cautionsOf } from '../catalog/part'
import { entitySheet, type SheetNode, type SheetRow } from './entitySheet'
import { fullName } from './sheetFaults'

/** What to let people command or ask by voice, and what other interfaces on the local network may show. */
export interface Exposure {
  name: string
  place: string
  voice: 'command' | 'ask' | 'no'
  others: 'command' | 'show' | 'no'
  why: string
}

/**
 * Advice for each entity that is offered: voice and other local interfaces are the controller's business, and this is
 * what they should be given. What can hurt somebody is never left to a misheard word.
 */
export function exposureOf(nodes: readonly SheetNode[], catalog: Catalog, root: string): Exposure[] {
  return nodes.flatMap((node) =>
    entitySheet([node], catalog, root)
      .filter((r) => r.offered)
      .map((row) => ({ name: fullName(row), place: row.place ?? '', ...advice(node, row, catalog) })),
  )
}

function advice({ design }: SheetNode, row: SheetRow, catalog: Catalog): Pick<Exposure, 'voice' | 'others' | 'why'> {
  if (row.role === 'diagnostic') return { voice: 'no', others: 'no', why: 'tells how the thing itself is' }
  if (row.access === 'event')
    return { voice: 'no', others: 'no', why: 'happens, and is not asked for: a trigger alone' }
  if (row.access !== 'output') return { voice: 'ask', others: 'show', why: 'only read' }
  const part = design.parts[row.signal.partId]
  const kind = catalog.parts[part?.kind ?? '']
  const cautions = kind && part ? cautionsOf(kind, part.settings) : []
  const [first] = cautions
  if (first)
    return {
      voice: 'no',
      others: 'show',
      why: `${first.caution.title}: never by a misheard word, only where somebody sees it`,
    }
  return { voice: 'command', others: 'command', why: 'nothing of it can hurt' }
}

const HEAD = ['place', 'name', 'voice', 'other local interfaces', 'why']
export const exposureTable = (rows: readonly Exposure[]): string[][] => [
  HEAD,
  ...rows.map((r) => [r.place, r.name, r.voice, r.others, r.why]),
]

import type { Catalog } from '../catalog/catalog'
import type { PartKind, Terminal } from '../catalog/part'
import { type Design, inOrder } from '../model/design'
import { type End, endId, type Wiring } from './netlist'

/**
 * Everything that is joined by metal, or by something a current can pass: conductors, components, boards and the
 * insides of parts.
 */
export interface Bodies {
  /** The body an end of a wire belongs to. Ends no wire goes to are bodies of their own. */
  of: (id: string) => string
  /** The body of the board, its pins, rails, ground and USB socket. */
  board: string
}

const BOARD = 'board'

/**
 * Bodies of the final netlist. Only these keep two sides apart: a coupler's lamp and its transistor, a relay's coil and
 * its contacts, an isolated input or output, and a converter that isolates. A contact that is open is not taken for
 * apart.
 */
export function bodiesOf(design: Design, catalog: Catalog, wiring: Wiring): Bodies {
  const parent = new Map<string, string>()
  const root = (id: string): string => {
    const up = parent.get(id)
    if (up === undefined || up === id) return id
    const top = root(up)
    parent.set(id, top)
    return top
  }
  const join = (a: string, b: string) => parent.set(root(a), root(b))
  for (const { from, to } of wiring.wires) {
    join(endId(from), endId(to))
    for (const end of [from, to]) join(endId(end), insideOf(design, catalog, end))
  }
  for (const { id, value: part } of inOrder(design.parts)) {
    const kind = catalog.parts[part.kind]
    for (const t of kind?.terminals ?? []) if (kind) join(`part:${id}.${t.id}`, `inside:${id}.${sideOf(kind, t)}`)
  }
  return { of: root, board: root(BOARD) }
}

/** What an end is joined to beside its wires. */
function insideOf(design: Design, catalog: Catalog, end: End): string {
  switch (end.kind) {
    case 'pin':
      return BOARD
    case 'rail':
      return endId(end)
    case 'part': {
      const kind = catalog.parts[design.parts[end.partId]?.kind ?? '']
      const t = kind?.terminals.find((x) => x.id === end.terminal)
      return `inside:${end.partId}.${kind && t ? sideOf(kind, t) : 'all'}`
    }
    case 'leg':
      return `inside:${end.componentId}.${isCoupler(design, end.componentId) && ['3', '4'].includes(end.leg) ? 'seen' : 'all'}`
    case 'foreign':
      return endId(end)
  }
}

const isCoupler = (design: Design, componentId: string) => design.added[componentId]?.type === 'optocoupler'

/** The isolated side of a part a terminal is on; `main` is the one its lines and its supply are on. */
export function sideOf(kind: PartKind, t: Terminal): string {
  if (t.role === 'contact' && t.does) {
    switch (t.does.kind) {
      case 'common':
      case 'closes':
      case 'opens':
        return `contact ${t.does.of}`
      case 'senses':
        return 'sensed'
      case 'switches':
        return `switched ${t.does.of}`
      case 'foreign':
        return `pair ${t.does.pair}`
      default:
        return 'main'
    }
  }
  const ground = kind.terminals.find(
    (g) => g.role === 'ground' && (g === t || g.of?.includes(t.id)) && g.of !== undefined,
  )
  if (ground?.role !== 'ground' || !ground.of) return 'main'
  const feeds = (role: 'supply' | 'source') => kind.terminals.some((x) => x.role === role)
  // A converter or rectifier passes current from one side to the other unless it isolates.
  if (feeds('supply') && feeds('source') && !kind.isolates) return 'main'
  return `ground ${ground.id}`
}

import type { Board } from '../catalog/board'
import type { Catalog } from '../catalog/catalog'
import { linesOf, type PartKind, type Terminal } from '../catalog/part'
import { type FeedRail, railsOf, railSuits } from '../power/rails'
import { type Design, inOrder, lineKeyOf } from '../model/design'

/** Something a terminal may be joined to: a rail, or the terminal of another part. `words` as a person would say it. */
export interface Joint {
  id: string
  words: string
}

/** Why a terminal may not hang on a rail or on another terminal, and what it could; null when it may. */
export function joinRefusal(
  { design, board, catalog }: { design: Design; board: Board; catalog: Catalog },
  partId: string,
  terminal: Terminal,
  end: string,
): { reason: string; accepts: string } | null {
  const label = design.parts[partId]?.label ?? ''
  const choices = jointsOf(design, board, catalog, partId, terminal)
  if (choices.some((c) => c.id === end)) return null
  const accepts =
    choices.map((c) => c.words).join(', ') ||
    (terminal.role === 'supply' ? 'no rail of this board' : 'nothing in this design')
  if (terminal.role !== 'supply')
    return {
      reason:
        terminal.role === 'contact' && !isLoose(catalog.parts[design.parts[partId]?.kind ?? ''], terminal)
          ? `${label} ${terminal.label} belongs to the part’s own circuit`
          : `${label} ${terminal.label} cannot be joined to “${end}”`,
      accepts,
    }
  const rail = railsOf(design, board, catalog).find((r) => r.id === end)
  if (!rail) return { reason: `there is no rail “${end}”`, accepts }
  if (feedsItself(design, partId, rail)) return { reason: `${rail.name} begins at ${label} itself`, accepts }
  return {
    reason: `${label} ${terminal.label} stands ${terminal.minV} to ${terminal.maxV} V; ${rail.name} is ${rail.min} to ${rail.max} V`,
    accepts,
  }
}

/**
 * Everything a terminal may be joined to, rails first. A supply that only falls short is among them: the checks say so.
 * Alternating rails too, where the voltage fits.
 */
export function jointsOf(design: Design, board: Board, catalog: Catalog, partId: string, terminal: Terminal): Joint[] {
  const rails = railsOf(design, board, catalog)
  const kind = catalog.parts[design.parts[partId]?.kind ?? '']
  const asJoint = (r: FeedRail): Joint => ({ id: r.id, words: r.name })
  if (terminal.role === 'supply')
    return rails
      .filter((r) => !feedsItself(design, partId, r) && ['well', 'nearly', 'low'].includes(railSuits(r, terminal)))
      .map(asJoint)
  if (terminal.role === 'ground') return kind?.load ? otherContacts(design, catalog, partId, (t) => isStage(t)) : []
  if (terminal.role !== 'contact' || !isLoose(kind, terminal)) return []
  const own = rails.filter((r) => r.through === null && r.partId !== partId).map(asJoint)
  return [
    ...own,
    ...otherContacts(design, catalog, partId, (t, of) => isLoose(of, t) || (kind?.load !== undefined && isStage(t))),
  ]
}

function otherContacts(
  design: Design,
  catalog: Catalog,
  partId: string,
  fits: (t: Terminal, kind: PartKind) => boolean,
): Joint[] {
  return inOrder(design.parts).flatMap(({ id, value }) => {
    const kind = catalog.parts[value.kind]
    if (!kind || id === partId) return []
    return kind.terminals.flatMap((t) =>
      t.role === 'contact' && fits(t, kind) ? [{ id: lineKeyOf(id, t.id), words: `${value.label} ${t.label}` }] : [],
    )
  })
}

const isStage = (t: Terminal): boolean =>
  t.role === 'contact' && (t.does?.kind === 'sinks' || t.does?.kind === 'drives')

/**
 * A terminal that is free to be joined: a contact, an isolated side, a device that was there before, a load; not a
 * branch of a bus or the other lead of a sensor.
 */
function isLoose(kind: PartKind | undefined, t: Terminal): boolean {
  if (!kind || t.role !== 'contact') return false
  return t.does ? !['input', 'sinks', 'drives'].includes(t.does.kind) : linesOf(kind).length === 0
}

/** A converter may not feed itself, however long the way round. */
function feedsItself(design: Design, partId: string, rail: FeedRail, depth = 0): boolean {
  if (rail.partId === partId) return true
  const from = rail.partId === null || depth > 8 ? [] : Object.values(design.parts[rail.partId]?.feeds ?? {})
  return from.some(
    (f) =>
      f.split('.')[0] === partId ||
      feedsItself(design, partId, { ...rail, partId: f.includes('.') ? (f.split('.')[0] ?? null) : null }, depth + 1),
  )
}

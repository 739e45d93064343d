import type { Catalog } from '../catalog/catalog'
import { linesOf, type PartKind, returnOf } from '../catalog/part'
import { addedOn, type Design, type DesignPart, inOrder, lineKeyOf } from '../model/design'
import { rememberedOf } from '../model/remembered'
import { planKey } from '../lines/lines'

/** The board's own ground. */
export const GROUND = 'GND'

/** True for the id of a ground, the board's or one that must stay apart from it. */
export const isGround = (rail: string): boolean => rail === GROUND || rail.startsWith(`${GROUND}:`)

/**
 * Which ground each ground terminal of a part belongs to: `GND`, the board's, or `GND:PART` where nothing joins it to
 * the board. Grounds are joined only where a current needs it: a line that is not behind a coupler, or a supply that
 * comes from there. Keys are
 * `PART.TERMINAL`; sources are found under the key of their rail as well.
 */
export const groundsOf: (design: Design, catalog: Catalog) => ReadonlyMap<string, string> = rememberedOf(
  (design, catalog) => {
    const groups = new Groups()
    groups.add(GROUND)
    const g = { design, catalog, groups }
    const parts = inOrder(design.parts).flatMap(({ id, value: part }) => {
      const kind = catalog.parts[part.kind]
      return kind ? [{ id, part, kind }] : []
    })
    for (const p of parts) {
      for (const t of p.kind.terminals)
        if (t.role === 'ground' && p.part.feeds[t.id] === undefined) groups.add(lineKeyOf(p.id, t.id))
      joinByLines(g, p)
      joinBySupplies(g, p)
    }
    for (const c of Object.values(design.added)) if (c.type === 'shifter') joinRail(g, c.rail, GROUND)
    if (design.boardFeed !== null) joinRail(g, design.boardFeed, GROUND)
    const named = groups.named((members) =>
      members.includes(GROUND) ? GROUND : `${GROUND}:${(members[0] ?? '').split('.')[0]}`,
    )
    for (const { id, part, kind } of parts) {
      for (const t of kind.terminals) {
        if (t.role !== 'source' && t.role !== 'contact') continue
        const ground = t.role === 'source' || part.feeds[t.id] === undefined ? groundOf(g, lineKeyOf(id, t.id)) : null
        const of = ground === null ? undefined : named.get(ground)
        if (of !== undefined) named.set(lineKeyOf(id, t.id), of)
      }
    }
    return named
  },
)

interface Grounding {
  design: Design
  catalog: Catalog
  groups: Groups
}
interface InParts {
  id: string
  part: DesignPart
  kind: PartKind
}

/** The ground a rail returns to: its source's own, or the board's for the board's rails. */
function groundOf(g: Grounding, rail: string, depth = 0): string | null {
  const { design, catalog } = g
  const dot = rail.indexOf('.')
  if (dot < 0) return GROUND
  const [partId, terminal] = [rail.slice(0, dot), rail.slice(dot + 1)]
  const part = design.parts[partId]
  const kind = catalog.parts[part?.kind ?? '']
  const t = kind?.terminals.find((x) => x.id === terminal)
  if (!part || !kind || !t || depth > 8) return null
  if (t.role === 'contact' && (t.does?.kind === 'closes' || t.does?.kind === 'opens')) {
    const { of } = t.does
    const common = kind.terminals.find((c) => c.role === 'contact' && c.does?.kind === 'common' && c.does.of === of)
    const from = common && part.feeds[common.id]
    return from === undefined ? null : groundOf(g, from, depth + 1)
  }
  const back = returnOf(kind, terminal)
  return back === undefined ? null : lineKeyOf(partId, back)
}

function joinRail(g: Grounding, rail: string, to: string): void {
  const ground = groundOf(g, rail)
  if (ground !== null) g.groups.join(ground, to)
}

/** A line that is not behind a coupler joins its part's ground, or that of its supplies, to the board's. */
function joinByLines(g: Grounding, { id, part, kind }: InParts): void {
  for (const line of linesOf(kind)) {
    if (isolatedLine(g.design, id, part, line)) continue
    const back = returnOf(kind, line.id)
    if (back !== undefined) g.groups.join(lineKeyOf(id, back), GROUND)
    // A coil or a lamp between a supply and a pin returns through the pin.
    else for (const rail of suppliesOf(kind, part)) joinRail(g, rail, GROUND)
  }
}

/** What a part is fed from has its ground; behind a low-side switch the stage's is the way back. */
function joinBySupplies(g: Grounding, { id, part, kind }: InParts): void {
  for (const t of kind.terminals) {
    const rail = part.feeds[t.id]
    const back = returnOf(kind, t.id)
    if (rail === undefined || t.role !== 'supply' || back === undefined) continue
    const through = part.feeds[back]
    const ground = through === undefined ? lineKeyOf(id, back) : stageGround(g.design, g.catalog, through)
    if (ground !== null) joinRail(g, rail, ground)
  }
}

/** The ground a rail belongs to; the board's where nothing else is known. */
export function groundOfRail(grounds: ReadonlyMap<string, string>, rail: string): string {
  return grounds.get(rail) ?? GROUND
}

const suppliesOf = (kind: PartKind, part: DesignPart): string[] =>
  kind.terminals.flatMap((t) => (t.role === 'supply' ? (part.feeds[t.id] ?? []) : []))

/** A line that light carries over, or that belongs to a circuit of its own. */
function isolatedLine(
  design: Design,
  partId: string,
  part: DesignPart,
  line: ReturnType<typeof linesOf>[number],
): boolean {
  const key = planKey(partId, part, line)
  return key !== null && addedOn(design, key, 'optocoupler') !== undefined
}

/** Ground of the stage or driver a load's return hangs on. */
function stageGround(design: Design, catalog: Catalog, end: string): string | null {
  const [partId = '', terminal = ''] = end.split('.')
  const kind = catalog.parts[design.parts[partId]?.kind ?? '']
  const t = kind?.terminals.find((x) => x.id === terminal)
  if (!kind || t?.role !== 'contact' || (t.does?.kind !== 'sinks' && t.does?.kind !== 'drives')) return null
  const back = returnOf(kind, t.does.of)
  return back === undefined ? GROUND : lineKeyOf(partId, back)
}

/** Sets that grow together (union–find). */
class Groups {
  private readonly parent = new Map<string, string>()

  add(item: string): void {
    if (!this.parent.has(item)) this.parent.set(item, item)
  }

  join(a: string, b: string): void {
    this.add(a)
    this.add(b)
    this.parent.set(this.root(a), this.root(b))
  }

  named(name: (members: string[]) => string): Map<string, string> {
    const members = new Map<string, string[]>()
    for (const item of this.parent.keys()) members.set(this.root(item), [...(members.get(this.root(item)) ?? []), item])
    const out = new Map<string, string>()
    for (const list of members.values()) for (const item of list) out.set(item, name(list))
    return out
  }

  private root(item: string): string {
    let at = item
    for (let up = this.parent.get(at); up !== undefined && up !== at; up = this.parent.get(at)) at = up
    return at
  }
}

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
    const parts = inOrder(design.parts).flatMap(({ id, value: part }) => {
      const kind = catalog.parts[part.kind]
      return kind ? [{ id, part, kind }] : []
    })
    /** The ground a rail returns to: its source's own, or the board's for the board's rails. */
    const ofRail = (rail: string, depth = 0): string | null => {
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
        return from === undefined ? null : ofRail(from, depth + 1)
      }
      const back = returnOf(kind, terminal)
      return back === undefined ? null : lineKeyOf(partId, back)
    }
    const joinRail = (rail: string, to: string) => {
      const ground = ofRail(rail)
      if (ground !== null) groups.join(ground, to)
    }
    for (const { id, part, kind } of parts) {
      for (const t of kind.terminals)
        if (t.role === 'ground' && part.feeds[t.id] === undefined) groups.add(lineKeyOf(id, t.id))
      for (const line of linesOf(kind)) {
        if (isolatedLine(design, id, part, line)) continue
        const back = returnOf(kind, line.id)
        if (back !== undefined) groups.join(lineKeyOf(id, back), GROUND)
        // A coil or a lamp between a supply and a pin returns through the pin.
        else for (const rail of suppliesOf(kind, part)) joinRail(rail, GROUND)
      }
      for (const t of kind.terminals) {
        const rail = part.feeds[t.id]
        if (rail === undefined) continue
        const back = returnOf(kind, t.id)
        const through = back === undefined ? undefined : part.feeds[back]
        if (t.role === 'supply' && through !== undefined) {
          // The return goes through a low-side switch: its ground is the way back to the supply.
          const ground = stageGround(design, catalog, through)
          if (ground !== null) joinRail(rail, ground)
        } else if (t.role === 'supply' && back !== undefined) joinRail(rail, lineKeyOf(id, back))
      }
    }
    for (const c of Object.values(design.added)) if (c.type === 'shifter') joinRail(c.rail, GROUND)
    if (design.boardFeed !== null) joinRail(design.boardFeed, GROUND)
    const named = groups.named((members) =>
      members.includes(GROUND) ? GROUND : `${GROUND}:${(members[0] ?? '').split('.')[0]}`,
    )
    for (const { id, part, kind } of parts) {
      for (const t of kind.terminals) {
        if (t.role !== 'source' && t.role !== 'contact') continue
        const ground = t.role === 'source' || part.feeds[t.id] === undefined ? ofRail(lineKeyOf(id, t.id)) : null
        const of = ground === null ? undefined : named.get(ground)
        if (of !== undefined) named.set(lineKeyOf(id, t.id), of)
      }
    }
    return named
  },
)

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

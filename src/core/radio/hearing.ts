import { Bursts, BURST_MS } from './subghz/bursts'
import type { Frame } from './subghz/decode'
import { type Family, familyFigures } from './subghz/family'
import { proposeFamily } from './subghz/propose'

/** A burst as it came in. */
export interface Arrival {
  atMs: number
  /** The gateway that heard it. */
  by: string
  family: Family
  /** The family was made from what was heard: nobody has described it. */
  found: boolean
  code: string
}

/** Families made from what was heard that are kept. */
const MOST_FOUND = 24
/** Frames of a burst nobody can read that a family is made from. */
const ENOUGH = 4

interface Unread {
  atMs: number
  frames: Frame[]
}

/**
 * Listens to raw frames of several gateways and says which codes came when. What no family reads makes one: a burst of
 * an unknown sender tells its own rules.
 */
export class Hearing {
  private readonly bursts = new Map<string, { known: Bursts; found: Map<Family, Bursts> }>()
  private readonly unread = new Map<string, Unread>()
  readonly found: Family[] = []

  constructor(private readonly families: readonly Family[]) {}

  /** The arrival this frame makes certain, or null. `atMs` is when it was heard, ms. */
  hear(by: string, frame: Frame, atMs: number): Arrival | null {
    const own = this.burstsOf(by)
    const known = own.known.hear(frame, atMs)
    const family = known && this.families[known.family]
    if (known && family) return { atMs, by, family, found: false, code: known.code }
    if (this.families.some((f) => new Bursts([familyFigures(f)]).reads(frame))) return null
    return this.hearFound(by, own.found, frame, atMs) ?? this.gather(by, own.found, frame, atMs)
  }

  private burstsOf(by: string) {
    const had = this.bursts.get(by)
    if (had) return had
    const fresh = { known: new Bursts(this.families.map(familyFigures)), found: new Map<Family, Bursts>() }
    this.bursts.set(by, fresh)
    return fresh
  }

  private hearFound(by: string, own: Map<Family, Bursts>, frame: Frame, atMs: number): Arrival | null {
    for (const family of this.found) {
      const bursts = own.get(family) ?? new Bursts([familyFigures(family)])
      own.set(family, bursts)
      const burst = bursts.hear(frame, atMs)
      if (burst) return { atMs, by, family, found: true, code: burst.code }
    }
    return null
  }

  private gather(by: string, own: Map<Family, Bursts>, frame: Frame, atMs: number): Arrival | null {
    if ([...own.values()].some((b) => b.reads(frame))) return null
    const key = `${by} ${frame.us.length}`
    const before = this.unread.get(key)
    const unread = before && atMs - before.atMs < BURST_MS ? before : { atMs, frames: [] }
    unread.atMs = atMs
    unread.frames.push(frame)
    this.unread.set(key, unread)
    if (unread.frames.length < ENOUGH) return null
    this.unread.delete(key)
    const proposal = proposeFamily(unread.frames)
    const code = proposal?.codes.find((c) => c !== null) ?? null
    if (!proposal || code === null) return null
    this.found.push(proposal.family)
    if (this.found.length > MOST_FOUND) {
      const gone = this.found.shift()
      if (gone) for (const b of this.bursts.values()) b.found.delete(gone)
    }
    const bursts = new Bursts([familyFigures(proposal.family)])
    for (const f of unread.frames) bursts.hear(f, atMs)
    own.set(proposal.family, bursts)
    return { atMs, by, family: proposal.family, found: true, code }
  }
}

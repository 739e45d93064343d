import { Bursts, BURST_MS } from './subghz/bursts'
import { bestReader, type Frame } from './subghz/decode'
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
  private readonly bursts = new Map<string, Map<Family, Bursts>>()
  private readonly unread = new Map<string, Unread>()
  readonly found: Family[] = []

  constructor(private readonly families: readonly Family[]) {}

  /** The arrival this frame makes certain, or null. `atMs` is when it was heard, ms. */
  hear(by: string, frame: Frame, atMs: number): Arrival | null {
    const own = this.bursts.get(by) ?? new Map<Family, Bursts>()
    this.bursts.set(by, own)
    // What somebody has described goes before what was found.
    for (const [families, found] of [
      [this.families, false],
      [this.found, true],
    ] as const) {
      const best = bestReader(families.map(familyFigures), frame)
      const family = best && families[best.family]
      if (!best || !family) continue
      const bursts = own.get(family) ?? new Bursts(familyFigures(family))
      own.set(family, bursts)
      const code = bursts.take(best.code, atMs)
      return code === null ? null : { atMs, by, family, found, code }
    }
    return this.gather(by, own, frame, atMs)
  }

  private gather(by: string, own: Map<Family, Bursts>, frame: Frame, atMs: number): Arrival | null {
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
      if (gone) for (const b of this.bursts.values()) b.delete(gone)
    }
    const bursts = new Bursts(familyFigures(proposal.family))
    for (const f of unread.frames) bursts.hear(f, atMs)
    own.set(proposal.family, bursts)
    return { atMs, by, family: proposal.family, found: true, code }
  }
}

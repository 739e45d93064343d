/** A low of this length ends a frame, µs. */
const GAP_US = 3500
/** So long after the last high the burst is over, µs. */
const OVER_US = 60_000

/** What a transmitter at a pin puts on the air, cut into frames as a receiver would: lengths in µs, high first, and the gap. */
export class Said {
  private edges: { us: number; on: boolean }[] = []

  constructor(readonly activeLow: boolean) {}

  wrote(us: number, level: 0 | 1): void {
    const on = (level === 1) !== this.activeLow
    if ((this.edges.at(-1)?.on ?? false) !== on) this.edges.push({ us, on })
  }

  /** Frames that are over by now. */
  frames(nowUs: number): number[][] {
    const out: number[][] = []
    let frame: number[] = []
    let used = 0
    for (const [i, { us, on }] of this.edges.entries()) {
      const endUs = this.edges[i + 1]?.us ?? (on ? Infinity : us + OVER_US)
      if (endUs > nowUs) break
      frame.push(endUs - us)
      if (on || endUs - us < GAP_US) continue
      out.push(frame)
      frame = []
      used = i + 1
    }
    this.edges = this.edges.slice(used)
    return out
  }
}

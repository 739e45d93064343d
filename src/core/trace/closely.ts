import type { CloselyHeard } from '../publish/payload'

export interface Sample {
  /** s from the first sample. */
  s: number
  value: number | null
}

export interface Listened {
  samples: Sample[]
  /** What the part really gives, ms from one sample to the next. */
  everyMs: number | null
  /** Pieces that never came, by their numbers. */
  lost: number
}

/** When its first piece began, by the node's own clock, ms. */
export const begunAt = (heard: readonly CloselyHeard[]): number | undefined => heard.find((h) => 'raw' in h)?.uptimeMs

/**
 * Pieces of one signal in their time, s from the first, or from another moment of the node's clock, ms: what was heard
 * before that is left out. A piece that never came leaves its gap.
 */
export function listened(heard: readonly CloselyHeard[], begin = begunAt(heard) ?? 0): Listened {
  const pieces = heard.filter((h) => 'raw' in h)
  const samples = pieces
    .flatMap((p) => p.raw.map((value, i) => ({ s: (p.uptimeMs + i * p.everyMs - begin) / 1000, value })))
    .filter((x) => x.s >= 0)
  const lost = pieces.reduce((sum, p, i) => sum + (i === 0 ? 0 : Math.max(0, p.n - (pieces[i - 1]?.n ?? 0) - 1)), 0)
  const [first, last] = [samples[0], samples.at(-1)]
  const everyMs =
    first && last && samples.length > 1 && lost === 0 ? ((last.s - first.s) * 1000) / (samples.length - 1) : null
  return { samples, everyMs: everyMs ?? pieces.at(-1)?.everyMs ?? null, lost }
}

/** At most `most` samples of these, lowest and highest of each stretch among them, so that no spike is lost. */
export function reduced(samples: readonly Sample[], most: number): Sample[] {
  if (samples.length <= most) return [...samples]
  const each = Math.ceil((samples.length * 2) / most)
  const out: Sample[] = []
  for (let at = 0; at < samples.length; at += each) {
    const stretch = samples.slice(at, at + each)
    const known = stretch.filter((x) => x.value !== null)
    const by = (better: (a: number, b: number) => boolean) =>
      known.reduce<Sample | undefined>(
        (best, x) => (!best || better(x.value ?? 0, best.value ?? 0) ? x : best),
        undefined,
      )
    const ends = [by((a, b) => a < b), by((a, b) => a > b)].filter((x) => x !== undefined)
    const kept = ends.length > 0 ? ends : stretch.slice(0, 1)
    out.push(...[...new Set(kept)].sort((a, b) => a.s - b.s))
  }
  return out
}

export interface Bounced {
  /** Of its first edge, by the node's own clock, ms. */
  atMs: number
  closed: boolean
  /** Edges beside the first. */
  edges: number
  /** From the first edge to the last, µs. */
  us: number
  edgesUs: readonly number[]
}

/** What a contact did at each of its movements. */
export const bounces = (heard: readonly CloselyHeard[]): Bounced[] =>
  heard.flatMap((h) =>
    'edgesUs' in h
      ? [
          {
            atMs: h.uptimeMs,
            closed: h.first === 1,
            edges: h.edgesUs.length - 1,
            us: h.edgesUs.at(-1) ?? 0,
            edgesUs: h.edgesUs,
          },
        ]
      : [],
  )

import type { Span } from './price'

/** A state of two words made of a reading. Values in the reading's unit, times in s. */
export interface Threshold {
  cut: number
  band: number
  /** The lower or the higher word is “on”. */
  on: 'below' | 'above'
  holdOnS: number
  holdOffS: number
}

/** Stretches of samples for which one thing holds: index of the first and of the last of each. */
export interface Runs {
  first: Int32Array
  last: Int32Array
  n: number
}

/** Room that every pass uses again; what comes of a pass is copied out of it. */
const scratch = { first: new Int32Array(0), last: new Int32Array(0) }
function room(n: number): typeof scratch {
  if (scratch.first.length < n) {
    scratch.first = new Int32Array(n)
    scratch.last = new Int32Array(n)
  }
  return scratch
}
const copied = (n: number): Runs => ({ first: scratch.first.slice(0, n), last: scratch.last.slice(0, n), n })

/** Where the value has passed a level, and where it has not. */
export interface Passed {
  on: Runs
  off: Runs
}

/**
 * Where the value has passed each of the levels, upwards or downwards as `above` says; an unknown value has passed none.
 * `levels` rise. One walk over the values, and work for each passing beside it, however many levels there are.
 */
export function passedAll(value: Float64Array, levels: Float64Array, above: boolean): Passed[] {
  const n = levels.length
  const rank = ranks(value, levels, above ? 0 : n)
  const counts = new Int32Array(n + 1)
  // Levels between two neighbouring ranks change at this sample. Before the first, nothing has passed.
  const walk = (at: (level: number, sample: number) => void) => {
    let before = above ? 0 : n
    for (let i = 0; i < rank.length; i++) {
      const r = rank[i] as number
      if (r === before) continue
      for (let k = Math.min(r, before); k < Math.max(r, before); k++) at(k, i)
      before = r
    }
  }
  walk((k) => {
    counts[k + 1] = (counts[k + 1] as number) + 1
  })
  for (let k = 0; k < n; k++) counts[k + 1] = (counts[k + 1] as number) + (counts[k] as number)
  const changes = new Int32Array(counts[n] as number)
  const next = counts.slice()
  walk((k, i) => {
    changes[next[k]!++] = i
  })
  return Array.from(levels, (_, k) => stretches(changes.subarray(counts[k], counts[k + 1]), value.length))
}

/** How many of the levels are at or below each value; `unknown` for one that is not known. */
function ranks(value: Float64Array, levels: Float64Array, unknown: number): Int16Array {
  const out = new Int16Array(value.length)
  for (let i = 0; i < value.length; i++) {
    const v = value[i] as number
    if (v !== v) {
      out[i] = unknown
      continue
    }
    let [low, high] = [0, levels.length]
    while (low < high) {
      const mid = (low + high) >> 1
      if ((levels[mid] as number) <= v) low = mid + 1
      else high = mid
    }
    out[i] = low
  }
  return out
}

/** Stretches between changes of something that begins as off, over `length` samples. */
function stretches(changes: Int32Array, length: number): Passed {
  const every = (from: number): Runs => {
    const runs: Runs = {
      first: new Int32Array((changes.length >> 1) + 1),
      last: new Int32Array((changes.length >> 1) + 1),
      n: 0,
    }
    for (let k = from; k <= changes.length; k += 2) {
      const first = k === 0 ? 0 : (changes[k - 1] as number)
      const last = (k < changes.length ? (changes[k] as number) : length) - 1
      // Nothing lies before a change at the very first sample.
      if (last < first) continue
      runs.first[runs.n] = first
      runs.last[runs.n++] = last
    }
    return runs
  }
  return { off: every(0), on: every(1) }
}

/** Those runs that last at least `holdS` from their first sample to their last. */
export function lasting(runs: Runs, s: Float64Array, holdS: number): Runs {
  if (holdS <= 0) return runs
  const { first, last } = room(runs.n)
  let n = 0
  for (let k = 0; k < runs.n; k++) {
    const [from, to] = [runs.first[k] as number, runs.last[k] as number]
    if ((s[to] as number) - (s[from] as number) < holdS) continue
    first[n] = from
    last[n++] = to
  }
  return copied(n)
}

/** First sample no earlier than `holdS` after sample `from`. */
function heldAt(s: Float64Array, from: number, holdS: number): number {
  if (holdS <= 0) return from
  const at = (s[from] ?? 0) + holdS
  let [low, high] = [from, s.length]
  while (low < high) {
    const mid = (low + high) >> 1
    if ((s[mid] ?? 0) < at) low = mid + 1
    else high = mid
  }
  return low
}

/**
 * When a threshold is “on” over a trace: `on` and `off` are the runs that would switch it, each lasting its hold. It
 * begins as its first known value says, at once; an unknown one counts as off, after the hold as any other.
 */
export function switched(
  s: Float64Array,
  on: Runs,
  off: Runs,
  { holdOnS, holdOffS, begins }: { holdOnS: number; holdOffS: number; begins: boolean },
): Span[] {
  const out: Span[] = []
  const end = s[s.length - 1] ?? 0
  let at = 0
  let [i, j] = [0, 0]
  let since = begins ? (s[0] ?? 0) : NaN
  for (;;) {
    if (Number.isNaN(since)) {
      while (i < on.n && (on.first[i] ?? 0) < at) i++
      if (i >= on.n) return out
      at = heldAt(s, on.first[i] ?? 0, holdOnS)
      since = s[at] ?? end
    } else {
      while (j < off.n && (off.first[j] ?? 0) < at) j++
      if (j >= off.n) {
        if (end > since) out.push({ from: since, to: end })
        return out
      }
      at = heldAt(s, off.first[j] ?? 0, holdOffS)
      const to = s[at] ?? end
      if (to > since) out.push({ from: since, to })
      since = NaN
    }
  }
}

/** Levels at which a threshold is passed on its way to on and to off. */
export const edgesOf = ({ cut, band, on }: Pick<Threshold, 'cut' | 'band' | 'on'>): { toOn: number; toOff: number } =>
  on === 'above' ? { toOn: cut + band / 2, toOff: cut - band / 2 } : { toOn: cut - band / 2, toOff: cut + band / 2 }

/** Whether a threshold begins as on: its first value, and no band where it comes from nowhere. */
export function beginsOn(value: Float64Array, { cut, on }: Pick<Threshold, 'cut' | 'on'>): boolean {
  const v = value[0] ?? NaN
  return on === 'above' ? v >= cut : v < cut
}

/** When a threshold is “on” over conditioned values. */
export function replay(t: Threshold, s: Float64Array, value: Float64Array): Span[] {
  const { toOn, toOff } = edgesOf(t)
  const above = t.on === 'above'
  const [ons, offs] = [toOn, toOff].map((l) => passedAll(value, Float64Array.of(l), above)[0]) as [Passed, Passed]
  const on = lasting(ons.on, s, t.holdOnS)
  const off = lasting(offs.off, s, t.holdOffS)
  return switched(s, on, off, { ...t, begins: beginsOn(value, t) })
}

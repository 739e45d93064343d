/** A person’s word that it was triggered now. `step` counts what was asked for: open, close; key by key. */
export interface Press {
  atMs: number
  step: number
}

/** Something in the air that could be meant: all arrivals of one address. */
export interface Candidate {
  id: string
  arrivals: readonly { atMs: number; code: string }[]
}

export interface Judged {
  id: string
  /** Logarithm, base 10, of how much likelier what was heard is if it is the one than if it is not. */
  log10: number
  hits: number
  misses: number
  extras: number
  /** Code by step, where one was heard; null where none was or not always the same. */
  codes: (string | null)[]
}

export interface Verdict {
  /** The likeliest first. */
  ranking: Judged[]
  /** Odds of the first over all others together and over none of them, base 10. */
  odds10: number
  /** Certain enough to be kept. */
  winner: string | null
  /** Presses that would probably make it certain; null when more presses would not. */
  more: number | null
}

/** Odds from which one is taken: 10 000 to 1 over all others together. */
export const CERTAIN_LOG10 = 4
/** How often the one that is meant is heard when it is triggered. */
const HEARD = 0.92
/** A press may come this long before or after its burst: people press Space as they open, or after. ms */
export const [EARLY_MS, LATE_MS] = [-1800, 3000]
/** Where most are, ms: a hand on the door and one on the keys. */
const [USUAL_MS, SPREAD_MS] = [250, 550]
/** Share of presses that come any time within the span. */
const LOOSE = 0.15
/** How often the one that is meant speaks without having been asked, 1/ms: once in four minutes. */
const UNASKED = 1 / 240_000
/** Before anything was pressed this much of what was heard counts, ms. */
export const BEFORE_MS = 600_000
/** Prior odds that it is none of those heard. */
const NONE = 0.05
/** How likely it is, before anything is known, that somebody else is busy with something just now. */
const BUSY = 0.15

/** Density of a burst coming `delay` ms after the press that means it, 1/ms. */
function density(delay: number): number {
  if (delay < EARLY_MS || delay > LATE_MS) return 0
  const z = (delay - USUAL_MS) / SPREAD_MS
  const near = Math.exp(-0.5 * z * z) / (SPREAD_MS * Math.sqrt(2 * Math.PI))
  return LOOSE / (LATE_MS - EARLY_MS) + (1 - LOOSE) * near
}

/**
 * Which candidate the presses mean. For each the likelihood of its arrivals is compared: as answers to the presses (hits
 * and misses, and a little of its own) against a process that knows nothing of them, at the rate it has had in the ten
 * minutes before and meanwhile. `nowMs` ends what is looked at; presses in order of time.
 */
export function judge(
  presses: readonly Press[],
  candidates: readonly Candidate[],
  sinceMs: number,
  nowMs: number,
): Verdict {
  const first = presses[0]?.atMs ?? nowMs
  const fromMs = Math.max(sinceMs, first - BEFORE_MS)
  // A press whose span is not over yet may still be answered.
  const due = presses.filter((p) => p.atMs + LATE_MS <= nowMs)
  const ranking = candidates.map((c) => judged(c, presses, due, fromMs, nowMs)).sort((a, b) => b.log10 - a.log10)
  const [best, ...others] = ranking
  if (!best || presses.length === 0) return { ranking, odds10: -Infinity, winner: null, more: null }
  const against = others.reduce((sum, o) => sum + 10 ** Math.min(o.log10, 300), 0) + NONE * candidates.length + 1
  const odds10 = best.log10 - Math.log10(against)
  const winner = odds10 >= CERTAIN_LOG10 && best.hits >= 2 ? best.id : null
  const each = best.hits > 0 ? best.log10 / presses.length : 0
  const second = others[0]?.log10 ?? 0
  // Where another answers as well, presses alone do not tell them apart.
  const helps = each > 0.2 && (others.length === 0 || second < best.log10 * 0.6 || second < 1)
  const missing = Math.max(Math.ceil((CERTAIN_LOG10 - odds10) / Math.max(each, 0.2)), 2 - best.hits)
  const more = winner === null && helps ? Math.max(1, missing) : null
  return { ranking, odds10, winner, more }
}

function judged(c: Candidate, presses: readonly Press[], due: readonly Press[], fromMs: number, nowMs: number): Judged {
  const arrivals = c.arrivals.filter((a) => a.atMs >= fromMs && a.atMs <= nowMs)
  const matched = match(presses, arrivals)
  const hits = matched.size
  const misses = due.filter((p) => !matched.has(p)).length
  const extras = arrivals.length - hits
  const span = Math.max(1, nowMs - fromMs)
  let ln = misses * Math.log(1 - HEARD) + extras * Math.log(UNASKED) - UNASKED * span
  for (const [press, arrival] of matched) ln += Math.log(HEARD * density(arrival.atMs - press.atMs))
  ln -= unrelated(arrivals, presses[0]?.atMs ?? nowMs, fromMs, nowMs)
  return {
    id: c.id,
    log10: arrivals.length === 0 ? -Infinity : ln / Math.LN10,
    hits,
    misses,
    extras,
    codes: codesOf(presses, matched),
  }
}

/**
 * Logarithm of the likelihood of arrivals of something that knows nothing of the presses: at one rate all the time, or, less
 * likely beforehand, at another since somebody began to be busy with it. Rates are those that explain the arrivals best.
 */
function unrelated(arrivals: readonly Arrived[], firstMs: number, fromMs: number, nowMs: number): number {
  const atRate = (n: number, span: number) => (n === 0 ? -0.5 : n * Math.log(n / Math.max(span, 1)) - n)
  const steady = atRate(arrivals.length, nowMs - fromMs)
  const since = firstMs + EARLY_MS
  const times = arrivals.flatMap((a) => (a.atMs >= since ? [a.atMs] : [])).sort((a, b) => a - b)
  const before = arrivals.length - times.length
  const n = times.length
  const stretch = n > 1 ? (((times.at(-1) ?? 0) - (times[0] ?? 0)) * n) / (n - 1) : nowMs - since
  const busy = atRate(before, since - fromMs) + atRate(n, stretch)
  const most = Math.max(steady, busy)
  return most + Math.log((1 - BUSY) * Math.exp(steady - most) + BUSY * Math.exp(busy - most))
}

type Arrived = Candidate['arrivals'][number]

/** Each press with the arrival that suits it best, none twice; in order of how well they suit. */
function match(presses: readonly Press[], arrivals: readonly Arrived[]): Map<Press, Arrived> {
  const pairs = presses.flatMap((press) =>
    arrivals.flatMap((arrival) => {
      const suits = density(arrival.atMs - press.atMs)
      return suits > 0 ? [{ press, arrival, suits }] : []
    }),
  )
  pairs.sort((a, b) => b.suits - a.suits)
  const out = new Map<Press, Arrived>()
  const taken = new Set<Arrived>()
  for (const { press, arrival } of pairs) {
    if (out.has(press) || taken.has(arrival)) continue
    out.set(press, arrival)
    taken.add(arrival)
  }
  return out
}

function codesOf(presses: readonly Press[], matched: ReadonlyMap<Press, Arrived>): (string | null)[] {
  const steps = Math.max(-1, ...presses.map((p) => p.step)) + 1
  return Array.from({ length: steps }, (_, step) => {
    const counts = new Map<string, number>()
    for (const [press, { code }] of matched) if (press.step === step) counts.set(code, (counts.get(code) ?? 0) + 1)
    const [top, next] = [...counts].sort((a, b) => b[1] - a[1])
    return top && top[1] > (next?.[1] ?? 0) ? top[0] : null
  })
}

/** Whether steps that are to differ do: each has a code, and no two the same. */
export const tellsApart = (codes: readonly (string | null)[]): boolean =>
  codes.every((c) => c !== null) && new Set(codes).size === codes.length

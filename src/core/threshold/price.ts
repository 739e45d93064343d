/** A span in which something was so, s. */
export interface Span {
  from: number
  to: number
}

export interface Prices {
  /** Of one time it was off though it should have been on. */
  missed: number
  /** Of a minute it was on though it should have been off. */
  falseMinute: number
  /** A beginning that comes late, or an end that comes early, by no more than this is no miss, s: fingers are not clocks. */
  graceS: number
}

/** Going dark on a person costs far more than a minute of light. */
export const PRESENCE_PRICES: Prices = { missed: 50, falseMinute: 1, graceS: 2 }

export interface Price {
  cost: number
  /** Times it was off though it should have been on. */
  missed: Span[]
  /** Times it was on though it should have been off. */
  wrong: Span[]
  falseMinutes: number
}

/**
 * What a state costs against what was true: both as rising spans of “on” within `from` to `to`, s. Spans of `unsure` are
 * left out of the reckoning.
 */
export function priceOf(
  on: readonly Span[],
  truth: readonly Span[],
  prices: Prices,
  unsure: readonly Span[] = [],
): Price {
  const missed = minus(joined(truth), joined(unsure)).flatMap((wanted) =>
    minus([wanted], on).filter((m) => counts(m, wanted, prices.graceS)),
  )
  const wrong = minus(minus(on, truth), unsure)
  const falseMinutes = wrong.reduce((sum, w) => sum + (w.to - w.from), 0) / 60
  return { cost: missed.length * prices.missed + falseMinutes * prices.falseMinute, missed, wrong, falseMinutes }
}

/** In the middle of what was wanted every gap counts, however short; at its ends only one longer than the grace. */
const counts = (gap: Span, wanted: Span, graceS: number): boolean =>
  (gap.from > wanted.from && gap.to < wanted.to) || gap.to - gap.from > graceS

/** What was true, made ready for many states to be priced against it. */
export interface Truth {
  /** It should be on, and that is sure. */
  wanted: readonly Span[]
  /** It may be on. */
  allowed: readonly Span[]
}

export const truthOf = (truth: readonly Span[], unsure: readonly Span[] = []): Truth => ({
  wanted: minus(joined(truth), joined(unsure)),
  allowed: joined([...truth, ...unsure]),
})

/** `priceOf` without its spans, for a search that asks tens of thousands of times. */
export function costOf(on: readonly Span[], { wanted, allowed }: Truth, prices: Prices) {
  let falseS = 0
  let j = 0
  for (const { from, to } of on) {
    falseS += to - from
    while (j < allowed.length && (allowed[j] as Span).to <= from) j++
    for (let k = j; k < allowed.length && (allowed[k] as Span).from < to; k++) {
      const a = allowed[k] as Span
      falseS -= Math.min(to, a.to) - Math.max(from, a.from)
    }
  }
  let missed = 0
  j = 0
  for (const { from, to } of wanted) {
    let at = from
    while (j < on.length && (on[j] as Span).to <= from) j++
    for (let k = j; k < on.length && (on[k] as Span).from < to; k++) {
      const o = on[k] as Span
      if (o.from > at && (at > from || o.from - at > prices.graceS)) missed++
      at = o.to
    }
    if (to - at > prices.graceS) missed++
  }
  const falseMinutes = Math.max(0, falseS) / 60
  return { cost: missed * prices.missed + falseMinutes * prices.falseMinute, missed, falseMinutes }
}

/** What of `a` is not in `b`; both rise and do not overlap themselves. */
export function minus(a: readonly Span[], b: readonly Span[]): Span[] {
  const out: Span[] = []
  let j = 0
  for (const { from, to } of a) {
    let at = from
    while (j < b.length && (b[j]?.to ?? 0) <= at) j++
    for (let k = j; k < b.length && (b[k]?.from ?? 0) < to; k++) {
      const cut = b[k] as Span
      if (cut.from > at) out.push({ from: at, to: cut.from })
      at = Math.max(at, cut.to)
    }
    if (at < to) out.push({ from: at, to })
  }
  return out
}

/** Spans in order, those that touch or overlap made one. */
export function joined(spans: readonly Span[]): Span[] {
  const out: Span[] = []
  for (const { from, to } of [...spans].sort((a, b) => a.from - b.from)) {
    const last = out.at(-1)
    if (last && from <= last.to) last.to = Math.max(last.to, to)
    else if (to > from) out.push({ from, to })
  }
  return out
}

import type { Frame } from './decode'
import { decodeFrame } from './decode'
import { type Family, familyFigures, familySchema, GAP_US, LEAST_PULSES, MOST_PULSES } from './family'
import { type Level, levelOf, levelsOf } from './levels'

/** A family made from what was heard, and how it was found. */
export interface Proposal {
  family: Family
  /** Codes of the frames in order; null where one does not fit. */
  codes: (string | null)[]
  /** How each thing was found, in sentences. */
  why: string[]
}

/** A pulse off from both levels by this share belongs to neither. */
const FOREIGN = 0.35
/** What a pair of bits in a code of two states would have to avoid by chance for three states to be read into it. */
const THREE_STATES = 0.1
/** Silence that ends a burst, against the gap between its frames. */
const PAUSE = 2.5

/**
 * A family for frames of one sender: base length, rule of its bits, their number, gap and repeats. Null when they have no
 * form in common. The more different codes there are among them, the more is known.
 */
export function proposeFamily(heard: readonly Frame[]): Proposal | null {
  const frames = sameLength(heard)
  const length = frames[0]?.us.length ?? 0
  if (frames.length < 2 || length < LEAST_PULSES || length > MOST_PULSES || length % 2 === 0) return null
  const rows = agreed(frames)
  const lead = leadOf(rows)
  const body = rows.map((r) => r.slice(lead, -1))
  const highs = levelsOf(
    body.flatMap((r) => r.filter((_, i) => i % 2 === 0)),
    2,
  )
  const lows = levelsOf(
    body.flatMap((r) => r.filter((_, i) => i % 2 === 1)),
    2,
  )
  const rule = ruleOf(body, highs, lows)
  if (!rule) return null
  const shape = rule.levels.length === 2 ? inBaseLengths(rule.levels) : inBaseLengthsOfThree(rule.levels)
  if (!shape) return null
  const { baseUs } = shape
  const last = median(rows.map((r) => r.at(-1) ?? 0))
  const gap = gapOf(frames)
  const form = {
    name: 'found',
    baseUs: Math.round(baseUs),
    lead: Array.from({ length: lead }, (_, i) => quarters(median(rows.map((r) => r[i] ?? 0)) / baseUs)),
    ...rule.symbols(shape.multiples),
    sync: [quarters(last / baseUs), Math.min(80, Math.max(1, Math.round(gap / baseUs)))],
    bits: (length - 1 - lead) / rule.width,
    repeats: Math.max(2, repeatsOf(heard, gap)),
    tolerance: toleranceOf(rule.symbols(shape.multiples)),
    parts: [],
  }
  const named = { ...form, name: nameOf(form, rule.kind) }
  const parsed = familySchema.safeParse(named)
  if (!parsed.success) return null
  const figures = familyFigures(parsed.data)
  const codes = heard.map((f) => decodeFrame(figures, f))
  if (codes.filter((c) => c !== null).length < 2) return null
  return { family: parsed.data, codes, why: whyOf(parsed.data, rule, frames.length) }
}

/** Frames of the length most of them have. */
function sameLength(heard: readonly Frame[]): Frame[] {
  const counts = new Map<number, number>()
  for (const { us } of heard) counts.set(us.length, (counts.get(us.length) ?? 0) + 1)
  const length = [...counts].sort((a, b) => b[1] - a[1] || b[0] - a[0])[0]?.[0]
  return heard.filter((f) => f.us.length === length)
}

/** Equal frames that follow each other as one, each pulse the median of theirs: what is said again is heard better. */
function agreed(frames: readonly Frame[]): number[][] {
  const runs: Frame[][] = []
  for (const frame of frames) {
    const run = runs.find((r) => r[0] && alike(r[0].us, frame.us))
    if (run) run.push(frame)
    else runs.push([frame])
  }
  // What was heard once among many that were heard often is a damaged one.
  const often = runs.filter((r) => r.length > 1)
  return (often.length > 0 ? often : runs).map((r) =>
    (r[0]?.us ?? []).map((_, i) => median(r.map((f) => f.us[i] ?? 0))),
  )
}

const alike = (a: readonly number[], b: readonly number[]): boolean =>
  a.every((x, i) => Math.abs(x - (b[i] ?? 0)) < 0.3 * Math.max(x, b[i] ?? 0) + 40)

/** Pulses before the first bit: pairs at the beginning that are the same in every frame and of no length the rest has. */
function leadOf(rows: readonly number[][]): number {
  const rest = rows.flatMap((r) => r.slice(8, -1))
  const levels = [levelsOf(rest.filter((_, i) => i % 2 === 0)), levelsOf(rest.filter((_, i) => i % 2 === 1))]
  const foreign = (at: number) =>
    rows.every((r) => {
      const us = r[at] ?? 0
      // Rows have an odd length and end with a high, so that parity within the joined rest is that of the rows.
      return (levels[at % 2] ?? []).every((l) => Math.abs(us - l.us) > FOREIGN * l.us)
    })
  let lead = 0
  for (let at = 0; at < 8; at++) if (foreign(at)) lead = at + 1
  return lead + (lead % 2)
}

interface Rule {
  kind: 'pairs' | 'three states' | 'gaps' | 'pulses'
  /** Pulses of a symbol. */
  width: number
  /**
   * Lengths of the symbols, µs: short and long, freed of what highs have more than lows; or what never changes, then short
   * and long of what does.
   */
  levels: number[]
  symbols(multiples: readonly number[]): Pick<Family, 'zero' | 'one' | 'open'>
  chance: number
}

/** What tells a bit: where the long pulse is, how long the gap is, or how long the pulse. */
function ruleOf(body: readonly number[][], highs: readonly Level[], lows: readonly Level[]): Rule | null {
  const [h, l] = [highs.length, lows.length]
  const us = (levels: readonly Level[], i: number) => levels[i]?.us ?? 0
  if (h === 2 && l === 2) return complementary(body, highs, lows)
  if (h === 1 && l === 2)
    return {
      kind: 'gaps',
      width: 2,
      levels: [us(highs, 0), us(lows, 0), us(lows, 1)],
      symbols: ([a = 1, s = 1, b = 2]) => ({ zero: [a, s], one: [a, b], open: null }),
      chance: 1,
    }
  if (h === 2 && l === 1)
    return {
      kind: 'pulses',
      width: 2,
      levels: [us(lows, 0), us(highs, 0), us(highs, 1)],
      symbols: ([a = 1, s = 1, b = 2]) => ({ zero: [s, a], one: [b, a], open: null }),
      chance: 1,
    }
  return null
}

/** Short and long, or long and short: bits by pairs, or by pairs of pairs where one of the four never occurs. */
function complementary(body: readonly number[][], highs: readonly Level[], lows: readonly Level[]): Rule | null {
  const codes = body.map((r) =>
    Array.from({ length: r.length / 2 }, (_, i) => {
      const [high, low] = [levelOf(highs, r[2 * i] ?? 0), levelOf(lows, r[2 * i + 1] ?? 0)]
      return high === low ? '?' : String(high)
    }).join(''),
  )
  if (codes.some((c) => c.includes('?'))) return null
  const mean = (i: number) => ((highs[i]?.us ?? 0) + (lows[i]?.us ?? 0)) / 2
  const levels = [mean(0), mean(1)]
  const pairs = new Set<string>()
  const even = codes.every((c) => c.length % 2 === 0)
  // Positions count once for each thing they are seen to say.
  for (const c of new Set(codes)) for (let i = 0; i + 1 < c.length; i += 2) pairs.add(`${i}:${c.slice(i, i + 2)}`)
  const said = [...pairs].map((p) => p.split(':')[1])
  const chance = even && !said.includes('10') && said.includes('01') ? 0.75 ** said.length : 1
  const bit = ([s = 1, b = 3]: readonly number[]) => ({ zero: [s, b], one: [b, s] })
  if (chance > THREE_STATES)
    return { kind: 'pairs', width: 2, levels, symbols: (m) => ({ ...bit(m), open: null }), chance: 1 }
  return {
    kind: 'three states',
    width: 4,
    levels,
    symbols: (m) => {
      const { zero, one } = bit(m)
      return { zero: [...zero, ...zero], one: [...one, ...one], open: [...zero, ...one] }
    },
    chance,
  }
}

/** Base length for which the lengths are small multiples of it. Null when there is none within a fifth of one. */
function inBaseLengths(levels: readonly number[]): { baseUs: number; multiples: number[] } | null {
  const shortest = Math.min(...levels)
  let best: { baseUs: number; multiples: number[]; cost: number } | null = null
  for (const first of [1, 2, 3, 4]) {
    const rough = shortest / first
    const multiples = levels.map((l) => Math.max(1, Math.round(l / rough)))
    if (multiples.some((m) => m > 20) || new Set(multiples).size < Math.min(2, new Set(levels).size)) continue
    const baseUs = levels.reduce((a, b) => a + b, 0) / multiples.reduce((a, b) => a + b, 0)
    const off = Math.max(...levels.map((l, i) => Math.abs(l / baseUs - (multiples[i] ?? 1)) / (multiples[i] ?? 1)))
    // A finer base length fits everything: it has to fit much better to be believed.
    const cost = off + 0.035 * (first - 1)
    if (!best || cost < best.cost) best = { baseUs, multiples, cost }
  }
  return best && best.cost < 0.2 ? best : null
}

/**
 * The same for a code of which only highs or only lows differ. A receiver makes highs longer and lows shorter by as much:
 * free of that are what long has more than short, and short together with what never changes.
 */
function inBaseLengthsOfThree(levels: readonly number[]): { baseUs: number; multiples: number[] } | null {
  const [still = 0, short = 0, long = 0] = levels
  let best: { baseUs: number; multiples: number[]; cost: number } | null = null
  for (let more = 1; more <= 6; more++) {
    const rough = (long - short) / more
    const both = Math.round((short + still) / rough)
    const a = Math.min(both - 1, Math.max(1, Math.round(still / rough)))
    if (both < 2) continue
    const baseUs = (long + still) / (both + more)
    const off = Math.abs((short + still) / both / baseUs - 1)
    const bias = Math.abs(still / baseUs - a)
    const cost = off + 0.3 * bias + 0.03 * (more - 1)
    if (!best || cost < best.cost) best = { baseUs, multiples: [a, both - a, both - a + more], cost }
  }
  return best && best.cost < 0.3 ? best : null
}

const quarters = (m: number): number => Math.max(0.5, Math.round(m * 4) / 4)

function toleranceOf({ zero, one, open }: Pick<Family, 'zero' | 'one' | 'open'>): number {
  const all = [zero, one, ...(open ? [open] : [])]
  const apart = (a: readonly number[], b: readonly number[]) => Math.max(...a.map((x, i) => Math.abs(x - (b[i] ?? x))))
  const nearest = Math.min(...all.flatMap((a, i) => all.slice(0, i).map((b) => apart(a, b))))
  return Math.min(0.6, Math.floor(nearest * 45) / 100)
}

/** Gap between frames of a burst: the shortest ones; what follows a burst is as long as nobody speaks. */
function gapOf(frames: readonly Frame[]): number {
  const gaps = frames.map((f) => f.gapUs).sort((a, b) => a - b)
  const least = gaps[0] ?? GAP_US
  return median(gaps.filter((g) => g < PAUSE * least))
}

/** Frames of a burst, at most: each begins after a pause. */
function repeatsOf(heard: readonly Frame[], gap: number): number {
  const runs: number[] = []
  let run = 0
  for (const f of heard) {
    run += 1
    if (f.gapUs < PAUSE * gap) continue
    runs.push(run)
    run = 0
  }
  return runs.length > 0 ? Math.min(40, Math.max(...runs)) : Math.min(40, run)
}

export function median(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b)
  const mid = sorted.length >> 1
  return sorted.length % 2 === 1 ? (sorted[mid] ?? 0) : ((sorted[mid - 1] ?? 0) + (sorted[mid] ?? 0)) / 2
}

const KINDS: Record<Rule['kind'], string> = {
  pairs: 'bits',
  'three states': 'symbols of three states',
  gaps: 'bits by their gaps',
  pulses: 'bits by their pulses',
}

function nameOf(f: { bits: number; baseUs: number; zero: readonly number[] }, kind: Rule['kind']): string {
  const [a, b] = kind === 'three states' ? [f.zero[0], f.zero[1]] : [f.zero[0], f.zero[1]]
  return `${f.bits} ${KINDS[kind]} of ${f.baseUs} µs, ${a}:${b}`
}

function whyOf(f: Family, rule: Rule, frames: number): string[] {
  const told = (s: readonly number[]) => s.map((m) => `${m} T`).join(', ')
  return [
    `${frames} frames of ${f.lead.length + f.bits * f.zero.length + 1} pulses each.`,
    `T = ${f.baseUs} µs makes every length a small multiple of it.`,
    rule.kind === 'pairs' ? `A bit is a pair: 0 is ${told(f.zero)}, 1 is ${told(f.one)}.` : '',
    rule.kind === 'gaps'
      ? `All pulses are ${f.zero[0]} T; the gap after one says 0 (${f.zero[1]} T) or 1 (${f.one[1]} T).`
      : '',
    rule.kind === 'pulses'
      ? `All gaps are ${f.zero[1]} T; the pulse says 0 (${f.zero[0]} T) or 1 (${f.one[0]} T).`
      : '',
    rule.kind === 'three states'
      ? `Of four pairs of bits one never occurs, which chance would do 1 time in ${Math.round(1 / rule.chance)}: three states, ${f.bits} symbols.`
      : '',
    f.lead.length > 0 ? `${f.lead.length} pulses come before the first bit: ${told(f.lead)}.` : '',
    `After the last bit ${f.sync[0]} T high and a gap of ${f.sync[1]} T; said ${f.repeats} times.`,
  ].filter((s) => s !== '')
}

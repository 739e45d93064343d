/** One movement of a contact as it was timed: level after its first edge, and its edges in µs from the first. */
export interface Movement {
  /** When its first edge came, ms on any clock that runs on. */
  atMs: number
  /** Level after the first edge: true where it is on. */
  on: boolean
  edgesUs: readonly number[]
}

/** A movement that comes back is a touch where it held so long, and a glitch where it did not, ms. */
const TOUCH_MS = 20
/** Movements closer than this belong together, ms. */
const CHATTER_MS = 1500
/** So many of them are no hand. */
const CHATTERS = 4
/** Half a period and a period of the mains, 50 and 60 Hz, ms. */
const MAINS_MS = [10, 20, 1000 / 120, 1000 / 60]
const LONGEST_MS = 500

/** How long the level stood after each edge, ms, `on` whether it was the level the movement went to; the last stays. */
const standsOf = ({ edgesUs }: Movement): { there: boolean; ms: number }[] =>
  edgesUs.map((us, i) => ({ there: i % 2 === 0, ms: ((edgesUs[i + 1] ?? Infinity) - us) / 1000 }))

/** What a debounce of so many ms makes of a movement: when the new level is taken, and how often it is taken. */
export function takenBy(movement: Movement, debounceMs: number): { counts: number; delayMs: number | null } {
  let [there, counts, at] = [false, 0, 0]
  let delayMs: number | null = null
  for (const stand of standsOf(movement)) {
    if (stand.there !== there && stand.ms >= debounceMs) {
      there = stand.there
      if (there) counts++
      delayMs ??= at + debounceMs
    }
    at += stand.ms
  }
  return { counts, delayMs }
}

/** How often it should be taken: once, and not at all where it was only a glitch. */
const meant = (m: Movement): number =>
  m.edgesUs.length % 2 === 1 || standsOf(m).some((s) => s.there && s.ms >= TOUCH_MS) ? 1 : 0

export interface ContactReport {
  /** Smallest whole number of ms from which on no movement counts twice and no glitch counts; null where none does. */
  smallestMs: number | null
  /** From the first edge to the change, at that debounce, the longest, ms. */
  delayMs: number | null
  /** From a movement's first edge to its last, the longest, ms. */
  bounceMs: number
  /** Touches shorter than that debounce, which it would swallow. */
  swallowed: number
  /** Runs of movements too close for a hand: how many, how long in all, and the longest the level was off in it, ms. */
  chatter: { movements: number; lastsMs: number; longestOffMs: number } | null
  /** Edges in step with the mains: a long or leaking line rather than a contact. */
  hum: boolean
}

/** Half as much again, and 5 ms at least: contacts get worse with age. */
export const safeDebounce = (smallestMs: number): number =>
  Math.min(LONGEST_MS, Math.max(5, Math.ceil(smallestMs * 1.5)))

/** What recorded movements of a contact say of its debounce, and whether it is a contact’s bounce at all. */
export function contactReport(movements: readonly Movement[]): ContactReport {
  const wrong = (ms: number) => movements.some((m) => takenBy(m, ms).counts > meant(m))
  let smallestMs: number | null = LONGEST_MS
  while (smallestMs > 0 && !wrong(smallestMs - 1)) smallestMs--
  if (wrong(smallestMs)) smallestMs = null
  const taken = smallestMs === null ? [] : movements.map((m) => takenBy(m, smallestMs))
  const delays = taken.flatMap((t) => (t.delayMs === null ? [] : [t.delayMs]))
  return {
    smallestMs,
    delayMs: delays.length > 0 ? Math.max(...delays) : null,
    bounceMs: Math.max(0, ...movements.map((m) => (m.edgesUs.at(-1) ?? 0) / 1000)),
    swallowed: taken.filter((t, i) => t.counts === 0 && movements[i] && meant(movements[i]) === 1).length,
    chatter: chatterOf(movements),
    hum: movements.some(hums),
  }
}

function chatterOf(movements: readonly Movement[]): ContactReport['chatter'] {
  let worst: ContactReport['chatter'] = null
  let run: Movement[] = []
  const end = () => {
    const [first, last] = [run[0], run.at(-1)]
    if (run.length >= CHATTERS && first && last && run.length > (worst?.movements ?? 0))
      worst = { movements: run.length, lastsMs: last.atMs - first.atMs, longestOffMs: longestOff(run) }
    run = []
  }
  for (const m of movements) {
    const before = run.at(-1)
    if (before && m.atMs - before.atMs > CHATTER_MS) end()
    run.push(m)
  }
  end()
  return worst
}

/** The longest the level was off between movements that belong together, ms. */
function longestOff(run: readonly Movement[]): number {
  let longest = 0
  for (const [i, m] of run.entries()) {
    const next = run[i + 1]
    // What it stands at after its last edge.
    const on = m.edgesUs.length % 2 === 1 ? m.on : !m.on
    if (!on && next) longest = Math.max(longest, next.atMs - m.atMs - (m.edgesUs.at(-1) ?? 0) / 1000)
  }
  return longest
}

/** Whether the edges come in the step of the mains: six or more, each within a tenth of the same half or whole period. */
function hums({ edgesUs }: Movement): boolean {
  const gaps = edgesUs.slice(1).map((us, i) => (us - (edgesUs[i] ?? 0)) / 1000)
  // Level to level or edge to edge of the same kind: two gaps together are a period.
  const periods = gaps.slice(1).map((g, i) => g + (gaps[i] ?? 0))
  return periods.length >= 5 && MAINS_MS.some((p) => periods.every((g) => Math.abs(g - p) <= p / 10))
}

/**
 * The leak across an open contact below which a pulled-up input reads as closed, Ω: the divider of pull-up and leak
 * stands at the input’s highest low.
 * @param lowRatio highest voltage that surely reads low, as a share of the supply
 */
export const leakThatReadsOn = (pullOhm: number, lowRatio: number): number => (pullOhm * lowRatio) / (1 - lowRatio)

import { type Candidate, judge, type Press } from '../../src/core/radio/learning'
import { normal } from './chance'

/** A house to learn in: what a person does and what else is in the air. */
export interface Session {
  presses: Press[]
  candidates: Candidate[]
  /** Which of them is meant; `null` when it is not heard at all. */
  meant: string | null
  fromMs: number
}

const CODES = ['a', 'b', 'c', 'd']

/**
 * Ten minutes of air and then a person who triggers something up to twelve times at their own rhythm. Neighbours: ones
 * that tell regularly, ones that come by chance, ones that somebody plays with, and now and then one that answers to the
 * same deed, like a motion sensor by the door. The one that is meant is missed now and then, and in one session of twenty
 * it cannot be heard at all.
 */
export function session(random: () => number): Session {
  const startMs = 600_000 * (0.05 + 0.95 * random())
  const steps = [1, 1, 2, 2, 4][Math.floor(random() * 5)] ?? 1
  const rhythmMs = 2500 + 9000 * random()
  const presses: Press[] = []
  let at = startMs
  for (let n = 0; n < 12; n++) {
    presses.push({ atMs: at, step: n % steps })
    at += rhythmMs * (0.6 + 0.8 * random()) + 400
  }
  const endMs = at + 4000
  const deaf = random() < 0.05
  const missed = 0.15 * random()
  const candidates: Candidate[] = []
  const habit = 100 + 500 * random()
  const arrivals: { atMs: number; code: string }[] = []
  if (!deaf)
    for (const p of presses)
      if (random() >= missed) arrivals.push({ atMs: p.atMs + habit + 250 * normal(random), code: CODES[p.step] ?? 'a' })
  candidates.push({ id: 'meant', arrivals })
  const neighbours = 1 + Math.floor(random() * 14)
  for (let i = 0; i < neighbours; i++) {
    const came: { atMs: number; code: string }[] = []
    const kind = random()
    if (kind < 0.45) {
      // Regular; every third of them nearly as often as the person presses.
      const every = random() < 0.33 ? rhythmMs * (0.95 + 0.1 * random()) : 3000 + 120_000 * random() ** 2
      for (let t = every * random(); t < endMs; t += every * (0.98 + 0.04 * random())) came.push({ atMs: t, code: 'a' })
    } else if (kind < 0.85) {
      const mean = 4000 + 300_000 * random()
      for (let t = -mean * Math.log(1 - random()); t < endMs; t -= mean * Math.log(1 - random()))
        came.push({ atMs: t, code: random() < 0.5 ? 'a' : 'b' })
    } else {
      // Somebody next door presses a remote while we learn.
      let t = startMs + 20_000 * random()
      for (let n = 0; n < 8 && t < endMs; n++) {
        came.push({ atMs: t, code: 'a' })
        t += 1500 + 8000 * random()
      }
    }
    candidates.push({ id: `neighbour ${i}`, arrivals: came })
  }
  return { presses, candidates, meant: deaf ? null : 'meant', fromMs: 0 }
}

/** Presses until one is certain, and which; null when none was within twelve. */
export function played({ presses, candidates, fromMs }: Session): { winner: string; after: number } | null {
  for (let n = 1; n <= presses.length; n++) {
    const so = presses.slice(0, n)
    // A moment after the press, as it is looked at on screen, and before the next.
    const nowMs = Math.min((so.at(-1)?.atMs ?? 0) + 3500, (presses[n]?.atMs ?? Infinity) - 1)
    const heard = candidates.map((c) => ({ ...c, arrivals: c.arrivals.filter((a) => a.atMs <= nowMs) }))
    const { winner } = judge(so, heard, fromMs, nowMs)
    if (winner !== null) return { winner, after: n }
  }
  return null
}

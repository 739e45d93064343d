import type { Pattern } from '../model/behaviour'

export interface PressTimes {
  used: readonly Pattern[]
  gapMs: number
  longMs: number
  repeatMs: number
}

/** Strokes of each pattern: `s` short, `l` long. */
export const STROKES: Partial<Record<Pattern, string>> = {
  single: 's',
  double: 'ss',
  triple: 'sss',
  quadruple: 'ssss',
  long: 'l',
  'short-long': 'sl',
  'long-short': 'ls',
}

export interface PressState {
  held: boolean
  strokes: string
  sinceMs: number
  long: boolean
  early: boolean
  repeatMs: number
}

export function startPresses(): PressState {
  return { held: false, strokes: '', sinceMs: 0, long: false, early: false, repeatMs: 0 }
}

/**
 * One look at a debounced key. A pattern is told at the first moment nothing longer that is used can still come of it:
 * on the way down when only a short stroke can follow, on release or at the long time otherwise, after the gap when
 * more may come. Times in ms of any start. The board does the same, step by step.
 */
export function pressStep(
  t: PressTimes,
  state: PressState,
  held: boolean,
  nowMs: number,
): { state: PressState; told: Pattern | null } {
  const s = { ...state }
  const known = t.used.flatMap((p) => (STROKES[p] === undefined ? [] : [[p, STROKES[p]] as const]))
  const longer = (strokes: string) => known.some(([, k]) => k.length > strokes.length && k.startsWith(strokes))
  const named = (strokes: string): Pattern | null => known.find(([, k]) => k === strokes)?.[0] ?? null
  const end = (strokes: string): Pattern | null => {
    s.strokes = longer(strokes) ? strokes : ''
    return longer(strokes) ? null : named(strokes)
  }
  const waits = t.used.includes('long-release') || t.used.includes('repeat')
  let told: Pattern | null = null
  if (held && !s.held) {
    if (s.strokes !== '' && nowMs - s.sinceMs >= t.gapMs) {
      // The step came late: what was begun before has ended, and this is a new beginning.
      told = named(s.strokes)
      s.strokes = ''
    }
    Object.assign(s, { held: true, sinceMs: nowMs, long: false, early: false })
    const next = `${s.strokes}s`
    if (
      told === null &&
      !waits &&
      named(next) !== null &&
      !longer(next) &&
      !known.some(([, k]) => k.startsWith(`${s.strokes}l`))
    ) {
      told = named(next)
      s.strokes = ''
      s.early = true
    }
  } else if (held && !s.early) {
    // A stroke nobody asks to be long is a short one, however long it takes.
    const asked = waits || known.some(([, k]) => k.startsWith(`${s.strokes}l`))
    if (!s.long && asked && nowMs - s.sinceMs >= t.longMs) {
      s.long = true
      s.repeatMs = nowMs
      const strokes = `${s.strokes}l`
      told = end(strokes)
    } else if (s.long && t.used.includes('repeat') && nowMs - s.repeatMs >= t.repeatMs) {
      s.repeatMs = nowMs
      told = 'repeat'
    }
  } else if (!held && s.held) {
    s.held = false
    s.sinceMs = nowMs
    if (s.long) told = t.used.includes('long-release') ? 'long-release' : null
    else if (!s.early) told = end(`${s.strokes}s`)
    s.early = false
  } else if (!held && s.strokes !== '' && nowMs - s.sinceMs >= t.gapMs) {
    told = named(s.strokes)
    s.strokes = ''
  }
  return { state: s, told }
}

/**
 * How long after the finger has begun a pattern is told, ms, with strokes of `strokeMs` and pauses of the same length;
 * null where it is not used.
 */
export function pressLatency(t: PressTimes, pattern: Pattern, strokeMs = 120): number | null {
  const strokes = STROKES[pattern]
  if (strokes === undefined || !t.used.includes(pattern)) return null
  let state = startPresses()
  let now = 0
  const script: { held: boolean; forMs: number }[] = [...strokes].flatMap((k) => [
    { held: true, forMs: k === 'l' ? t.longMs + 40 : strokeMs },
    { held: false, forMs: strokeMs },
  ])
  script.push({ held: false, forMs: t.gapMs + 20 })
  for (const { held, forMs } of script) {
    for (const until = now + forMs; now < until; now += 10) {
      const step = pressStep(t, state, held, now)
      state = step.state
      if (step.told === pattern) return now
    }
  }
  return null
}

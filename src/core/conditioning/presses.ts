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
  const next = { ...state }
  const words = vocabulary(t)
  if (held && !state.held) return { state: next, told: pressed(t, words, next, nowMs) }
  if (held) return { state: next, told: state.early ? null : holding(t, words, next, nowMs) }
  if (state.held) return { state: next, told: released(t, words, next, nowMs) }
  const over = state.strokes !== '' && nowMs - state.sinceMs >= t.gapMs
  return { state: next, told: over ? ended(words, next) : null }
}

/** The patterns that are used, as strokes: what they are called, and what may still come of a beginning. */
function vocabulary({ used }: PressTimes) {
  const known = used.flatMap((p) => (STROKES[p] === undefined ? [] : [[p, STROKES[p]] as const]))
  return {
    named: (strokes: string): Pattern | null => known.find(([, k]) => k === strokes)?.[0] ?? null,
    longer: (strokes: string) => known.some(([, k]) => k.length > strokes.length && k.startsWith(strokes)),
    begins: (strokes: string) => known.some(([, k]) => k.startsWith(strokes)),
    waits: used.includes('long-release') || used.includes('repeat'),
  }
}
type Vocabulary = ReturnType<typeof vocabulary>

/** The strokes so far are all there is. */
function ended({ named }: Vocabulary, s: PressState): Pattern | null {
  const told = named(s.strokes)
  s.strokes = ''
  return told
}

/** These strokes, unless more of them is used. */
function soFar({ named, longer }: Vocabulary, s: PressState, strokes: string): Pattern | null {
  s.strokes = longer(strokes) ? strokes : ''
  return longer(strokes) ? null : named(strokes)
}

function pressed(t: PressTimes, words: Vocabulary, s: PressState, nowMs: number): Pattern | null {
  // The step came late: what was begun before has ended, and this is a new beginning.
  const late = s.strokes !== '' && nowMs - s.sinceMs >= t.gapMs
  const told = late ? ended(words, s) : null
  Object.assign(s, { held: true, sinceMs: nowMs, long: false, early: false })
  const next = `${s.strokes}s`
  const onlyShort = !words.waits && !words.longer(next) && !words.begins(`${s.strokes}l`)
  if (told !== null || !onlyShort || words.named(next) === null) return told
  s.strokes = ''
  s.early = true
  return words.named(next)
}

function holding(t: PressTimes, words: Vocabulary, s: PressState, nowMs: number): Pattern | null {
  // A stroke nobody asks to be long is a short one, however long it takes.
  const asked = words.waits || words.begins(`${s.strokes}l`)
  if (!s.long && asked && nowMs - s.sinceMs >= t.longMs) {
    s.long = true
    s.repeatMs = nowMs
    return soFar(words, s, `${s.strokes}l`)
  }
  if (!s.long || !t.used.includes('repeat') || nowMs - s.repeatMs < t.repeatMs) return null
  s.repeatMs = nowMs
  return 'repeat'
}

function released(t: PressTimes, words: Vocabulary, s: PressState, nowMs: number): Pattern | null {
  const { long, early } = s
  Object.assign(s, { held: false, sinceMs: nowMs, early: false })
  if (long) return t.used.includes('long-release') ? 'long-release' : null
  return early ? null : soFar(words, s, `${s.strokes}s`)
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

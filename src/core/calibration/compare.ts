import { fit, type Fit, type FitOptions } from './fit'
import type { Pair } from './pair'
import { MODEL_NAMES, type ModelName } from './models'

export interface Compared {
  model: ModelName
  fitted: Fit | null
  /** Why it cannot be, where it cannot. */
  reason: string | null
}

/** A richer model must foretell pairs it has not seen better than a simpler one by this share. */
const EARNS = 0.85
/** From simple to rich; a table never proposes itself. */
const LADDER: readonly ModelName[] = [
  'offset',
  'gain',
  'line',
  'beta',
  'quadratic',
  'steinhart',
  'power',
  'exponential',
]

/**
 * Every model over the same pairs, and the one to begin with: the simplest that foretells left-out pairs as well as any,
 * where they are enough to tell; before that an offset from one pair and a line from two. Null with no pair. `suits`
 * says which models make sense for the quantity.
 */
export function compareModels(
  pairs: readonly Pair[],
  options: FitOptions = {},
  suits: (m: ModelName) => boolean = () => true,
): { all: Compared[]; proposed: ModelName | null } {
  const all = MODEL_NAMES.filter(suits).map((model): Compared => {
    const made = fit(model, pairs, options)
    return made.kind === 'none' ? { model, fitted: null, reason: made.reason } : { model, fitted: made, reason: null }
  })
  const possible = LADDER.flatMap((m) => all.filter((c) => c.model === m && c.fitted !== null))
  // Two pairs say nothing of a third.
  const told = pairs.length < 3 ? [] : possible.filter((c) => c.fitted?.leftOut != null)
  let best = told[0]
  for (const c of told) if ((c.fitted?.leftOut ?? 0) < EARNS * (best?.fitted?.leftOut ?? 0)) best = c
  if (best) return { all, proposed: best.model }
  const usual = (['line', 'offset'] as const).find((m) => possible.some((c) => c.model === m))
  return { all, proposed: usual ?? possible[0]?.model ?? null }
}

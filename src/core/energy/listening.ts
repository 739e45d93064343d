import type { Cycle } from './cycle'
import { phaseCharges } from './life'

/**
 * What keeping a sleeper awake for `seconds` takes out of its cell, Ah, likely, and how many wakings of its own take as
 * much; null where it has none.
 */
export function listeningCost(cycle: Cycle, seconds: number): { ah: number; wakings: number | null } {
  const phases = phaseCharges(cycle)
  const listens = phases.find((p) => p.id === 'listen') ?? phases.find((p) => p.id === 'awake')
  const ah = ((listens?.a.likely ?? 0) * seconds) / 3600
  const oneAh = phases.filter((p) => p.id !== 'asleep').reduce((sum, p) => sum + p.mAh, 0) / 1000
  return { ah, wakings: oneAh > 0 ? Math.max(1, Math.round(ah / oneAh)) : null }
}

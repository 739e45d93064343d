import type { Cycle } from './cycle'
import { phaseCharges } from './life'

/** What keeping a sleeper awake takes: for each second, and for one waking of its own to compare with, Ah, likely. */
export function awakeChargeAh(cycle: Cycle): { perSecond: number; perCycle: number } {
  const phases = phaseCharges(cycle)
  const listens = phases.find((p) => p.id === 'listen') ?? phases.find((p) => p.id === 'awake')
  const awake = phases.filter((p) => p.id !== 'asleep')
  return {
    perSecond: (listens?.a.likely ?? 0) / 3600,
    perCycle: awake.reduce((sum, p) => sum + p.mAh, 0) / 1000,
  }
}

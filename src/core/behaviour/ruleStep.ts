import { momentOf, type Trigger } from '../model/behaviour'

/** What an input says at one moment: its value, null where it is unknown, and what it told as an event. */
export interface Said {
  value: boolean | number | string | null
  told?: string
}

/** One rule between two steps. `holds` is null where there is nothing to compare with yet. */
export interface RuleState {
  holds: boolean | null
  /** When its condition began to hold after it had not, ms; null once it has acted. */
  sinceMs: number | null
  atMs: number | null
}
export const RULE_START: RuleState = { holds: null, sinceMs: null, atMs: null }

/** What came in during a longer step is not acted on, ms. */
export const LONG_STEP_MS = 2000

/**
 * One step of a rule. A first value, and the first after unknown, is where it begins to look: only a change from there
 * acts, once, when it has lasted `forS`. Values in the input's own unit, unrounded.
 */
export function ruleStep(
  before: RuleState,
  rule: { when: Trigger; forS: number },
  said: Said,
  nowMs: number,
): { state: RuleState; acts: boolean } {
  const long = before.atMs !== null && nowMs - before.atMs > LONG_STEP_MS
  const was = long ? RULE_START : before
  const moment = momentOf(rule.when)
  if (moment !== null) return { state: { ...RULE_START, atMs: nowMs }, acts: !long && said.told === moment }
  const holds = conditionHolds(rule.when, said.value, was.holds)
  const began = holds === true && was.holds === false ? nowMs : was.sinceMs
  const sinceMs = holds === true ? began : null
  const acts = sinceMs !== null && nowMs - sinceMs >= rule.forS * 1000
  return { state: { holds, sinceMs: acts ? null : sinceMs, atMs: nowMs }, acts }
}

/** Whether a value is what is waited for; inside the band it stays what it was. Null: nothing known to compare. */
function conditionHolds(when: Trigger, value: boolean | number | string | null, was: boolean | null): boolean | null {
  if (when === null || when === 'gone') return value === null
  if (value === null) return null
  if (typeof when !== 'object') return value === when
  if ('is' in when) return value === when.is
  if ('says' in when) return null
  const band = was === true ? (when.band ?? 0) : 0
  return 'above' in when ? Number(value) > when.above - band : Number(value) < when.below + band
}

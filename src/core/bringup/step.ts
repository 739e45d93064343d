import type { Working } from '../working/working'

export const STAGES = [
  'Before power',
  'Rails alone',
  'The chip in',
  'Dividers',
  'First writing',
  'What it says',
  'Network and broker',
  'Inputs and outputs by hand',
  'Fail-safe',
  'Into its box',
  'Where it hangs',
  'Trial',
] as const
export type StageNumber = 1 | 2 | 3 | 4 | 5 | 6 | 7 | 8 | 9 | 10 | 11 | 12

export const UNITS = ['V', 'Ω', 'A', 'dBm'] as const
export type MeterUnit = (typeof UNITS)[number]

/** What may be the matter when something is not as expected. */
export interface Cause {
  /** On which side of the span it lies; `any` for one that does not say. */
  side: 'low' | 'high' | 'any'
  why: string
  /** The measurement that tells it from the others. */
  tells: string
  /** What the meter would show if this were it, where it can be reckoned. */
  reads?: number
}

/** What the product can see by itself. */
export type Watch =
  | { of: 'written' | 'started' | 'online' | 'strength' | 'offline' }
  | { of: 'told' | 'unknown'; signalId: string }
  | { of: 'moved'; signalId: string; number?: { by: number; unit: string; decimals: number } }
  | { of: 'commanded'; signalId: string }

export interface BringUpStep {
  /** Same for as long as the step means the same. */
  key: string
  stage: StageNumber
  title: string
  how: string
  why: string
  /** A value between two limits, or something that is seen. */
  expect:
    | { kind: 'value'; unit: MeterUnit; min: number; max: number; working: Working | null }
    | { kind: 'seen'; what: string }
  causes: readonly Cause[]
  watch: Watch | null
  /** Has to be confirmed before the step opens. */
  caution: { title: string; text: string } | null
  /** Place where what was made otherwise is carried back. */
  bench: { path: string; words: string } | null
  signalId: string | null
  /** Lines it is about, whose wires may have gone to other pins. */
  lines?: readonly { key: string; name: string }[]
}

/** A step with nothing to watch, to confirm or to carry back. */
export const PLAIN = { watch: null, caution: null, bench: null, signalId: null } as const

export interface Verdict {
  ok: boolean
  side: 'low' | 'high' | 'within'
  words: string
  /** Nearest to what was found first. */
  causes: readonly Cause[]
}

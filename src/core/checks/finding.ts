import type { OpenCalculation } from '../calculations/writeBack'
import type { EditBody } from '../edits/edit'
import type { Working } from '../working/working'

export type Severity = 'stop' | 'fix' | 'note'

export interface Remedy {
  label: string
  edits: EditBody[]
}

/** What a check returns. `key` stays the same as long as it is the same trouble with the same thing. */
export interface Finding {
  rule: string
  severity: Severity
  key: string
  signalId: string | null
  partId: string | null
  /** Bench where it is seen best. */
  bench: (typeof BENCHES)[number]
  sentence: string
  working: Working | null
  remedies: Remedy[]
  /** The arithmetic behind it, opened with the design's own values. */
  calculation?: OpenCalculation
  /** A caution stands until someone acknowledges it by name. */
  caution: { title: string; text: string; privacy: boolean } | null
}

/** Benches of a node that findings belong to. */
export const BENCHES = ['parts', 'pins', 'wires', 'program', 'tune', 'publish'] as const

export const SEVERITIES: readonly Severity[] = ['stop', 'fix', 'note']

import type { WorkingStep } from '../working/working'

export interface CalculationField {
  id: string
  label: string
  unit: string
  min: number
  max: number
}

/** What a sum says of its values: `ideal` is the value that would be wanted, null where nothing is chosen. */
export interface CalculationAnswer {
  steps: WorkingStep[]
  ok: boolean
  words: string
  ideal: number | null
}

export type Values = Readonly<Record<string, number>>

/**
 * One sum of the bench. `value` among the fields is what is chosen from a series; all units SI unless the field says
 * otherwise.
 */
export interface Calculation {
  id: string
  title: string
  source: string
  fields: readonly CalculationField[]
  /** What `value` is bought as; null where nothing is chosen. */
  chooses: 'resistor' | 'capacitor' | 'gauge' | 'fuse' | null
  solve: (v: Values) => CalculationAnswer
}

export const field = (id: string, label: string, unit: string, min: number, max: number): CalculationField => ({
  id,
  label,
  unit,
  min,
  max,
})

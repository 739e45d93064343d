export interface WorkingStep {
  /** What this step gives, in words. */
  gives: string
  formula: string
  /** The formula with its numbers in it. */
  numbers: string
  result: string
}

/** How a number came about: steps in order, and where the formula or the limits come from. */
export interface Working {
  steps: WorkingStep[]
  source: string
}

export const step = (gives: string, formula: string, numbers: string, result: string): WorkingStep => ({
  gives,
  formula,
  numbers,
  result,
})

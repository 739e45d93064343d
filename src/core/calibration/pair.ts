/** A reading and what was true. In the reading's unit, both before and after. */
export interface Pair {
  raw: number
  reference: number
  /** Standard uncertainty of this reference by itself, not shared with the others; 0 or none where it is not stated. */
  u?: number
  /** Standard deviation of the mean reading, from its scatter. */
  scatter?: number
}

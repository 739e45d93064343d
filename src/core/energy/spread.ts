/** A number that is not known exactly. low ≤ likely ≤ high. */
export interface Spread {
  low: number
  likely: number
  high: number
}

export const spread = (low: number, likely: number, high: number): Spread => ({ low, likely, high })
export const exactly = (value: number): Spread => spread(value, value, value)
export const scaled = ({ low, likely, high }: Spread, by: number): Spread => spread(low * by, likely * by, high * by)
export const width = ({ low, high }: Spread): number => high - low

/** The value below which a share `p` of a triangular distribution over the spread lies. */
export function triangular({ low, likely, high }: Spread, p: number): number {
  if (high <= low) return likely
  const turn = (likely - low) / (high - low)
  return p < turn
    ? low + Math.sqrt(p * (high - low) * (likely - low))
    : high - Math.sqrt((1 - p) * (high - low) * (high - likely))
}

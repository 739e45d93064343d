const FACTORS: Record<string, Record<string, number>> = {
  m: { m: 1, cm: 100, mm: 1000 },
  '°C': { '°C': 1 },
  '': { '': 1 },
}

/** Factor from a reading's unit to a signal's unit. Throws a RangeError that names the units it would accept. */
export function unitFactor(from: string, to: string): number {
  const row = FACTORS[from]
  const factor = row?.[to]
  if (factor === undefined) throw new RangeError(`cannot show ${from || 'a plain number'} in ${to}; possible: ${Object.keys(row ?? {}).join(', ') || 'none'}`)
  return factor
}

export function unitsFor(from: string): string[] {
  return Object.keys(FACTORS[from] ?? {})
}

/** UCUM code of a unit shown on screen. */
export const ucum: Record<string, string> = { m: 'm', cm: 'cm', mm: 'mm', '°C': 'Cel', '%': '%', s: 's', 'dBm': 'dB[mW]', V: 'V', B: 'By' }

/** Units a reading can also be shown in; what is missing here is shown in its own unit alone. */
const FACTORS: Record<string, Record<string, number>> = {
  m: { m: 1, cm: 100, mm: 1000 },
  Pa: { Pa: 1, hPa: 0.01, kPa: 0.001 },
  V: { V: 1, mV: 1000 },
  A: { A: 1, mA: 1000 },
  L: { L: 1, 'm³': 0.001 },
}

/** Factor from a reading's unit to a signal's unit. Throws a RangeError that names the units it would accept. */
export function unitFactor(from: string, to: string): number {
  if (from === to) return 1
  const factor = FACTORS[from]?.[to]
  if (factor === undefined)
    throw new RangeError(`cannot show ${from || 'a plain number'} in ${to}; possible: ${unitsFor(from).join(', ')}`)
  return factor
}

export function unitsFor(from: string): string[] {
  return Object.keys(FACTORS[from] ?? { [from]: 1 })
}

/** UCUM code of a unit shown on screen. */
export const ucum: Record<string, string> = {
  m: 'm',
  cm: 'cm',
  mm: 'mm',
  '°C': 'Cel',
  '%': '%',
  s: 's',
  dBm: 'dB[mW]',
  dB: 'dB',
  V: 'V',
  mV: 'mV',
  A: 'A',
  mA: 'mA',
  B: 'By',
  Pa: 'Pa',
  hPa: 'hPa',
  kPa: 'kPa',
  lx: 'lx',
  'L/min': 'L/min',
  L: 'L',
  'm³': 'm3',
  '1': '1',
  '1/min': '/min',
  'µg/m³': 'ug/m3',
}

/**
 * What a reading of this unit can be at all, anywhere, whatever measures it; a little more where a calibration may
 * overshoot. Absolute zero is −273.15 °C by definition of the SI; below an absolute pressure, a light or a counted flow
 * of nothing there is only the error of a sensor.
 */
const POSSIBLE: Record<string, readonly [number, number]> = {
  '°C': [-273.15, 5000],
  '%': [-100, 1000],
  m: [-20_000, 1e7],
  cm: [-2e6, 1e9],
  mm: [-2e7, 1e10],
  Pa: [-2e5, 1e10],
  hPa: [-2000, 1e8],
  kPa: [-200, 1e7],
  V: [-1e6, 1e6],
  mV: [-1e9, 1e9],
  A: [-1e6, 1e6],
  mA: [-1e9, 1e9],
  lx: [-1000, 1e6],
  dBm: [-300, 100],
  dB: [-300, 200],
  'µg/m³': [-1000, 1e9],
  'L/min': [-1e6, 1e6],
  s: [-1, 1e12],
}

/** No quantity of a house comes near this, in any unit. */
const MOST = 1e15

/** False for a number that no part can have measured in this unit. */
export function isPossible(value: number, unit: string): boolean {
  const [least, most] = POSSIBLE[unit] ?? [-MOST, MOST]
  return value >= least && value <= most
}

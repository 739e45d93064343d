/** Speed of sound in air at `airC` °C, m/s: 331.3 · √(1 + T/273.15), dry air as an ideal gas. */
export function soundSpeed(airC: number): number {
  return 331.3 * Math.sqrt(1 + airC / 273.15)
}

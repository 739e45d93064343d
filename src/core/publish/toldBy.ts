import { type DriverName, traitsOf } from '../catalog/drivers'

/** Words an event can say: the patterns that are used, or those of its driver. */
export function toldBy(driver: DriverName, patterns: readonly string[]): readonly string[] {
  const { tells = [] } = traitsOf(driver)
  return tells === 'presses' ? patterns : tells
}

import type { Catalog } from '../catalog/catalog'
import type { Design, Signal } from '../model/design'
import { ucum } from '../units/convert'
import { channelOf } from './channelOf'

/** How far a command may shift the cuts of a state, in its reading’s own unit, as the node takes it; null where none may. */
export function shiftOf(
  design: Design,
  catalog: Catalog,
  { of, conditioning }: Signal,
): { most: number; unit: { unit?: string } } | null {
  const most = conditioning.levels?.shift
  const source = design.signals[of ?? '']
  const reading = source && channelOf(design, catalog, source)
  if (most === undefined || !reading) return null
  const unit = ucum[reading.unit]
  return { most, unit: unit === undefined ? {} : { unit } }
}

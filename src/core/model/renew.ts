import { z } from 'zod'
import { renewItems } from '../catalog/renew'
import { placeIdFrom } from './placeId'

const withArea = z.looseObject({ area: z.string() })

/**
 * A design of an earlier release as designs are now: its place goes by an id, the items it carries are renewed. Nothing
 * is checked here.
 */
export function renewDesign(json: unknown): unknown {
  const items = renewItems(json)
  const old = withArea.safeParse(items)
  if (!old.success || 'place' in old.data) return items
  const { area, ...rest } = old.data
  return { ...rest, place: placeIdFrom(area) }
}

/** What the place of a design from an earlier release is called; null for designs of now, which have an id alone. */
export function placeWordOf(json: unknown): string | null {
  const old = withArea.safeParse(json)
  return old.success ? old.data.area.trim() || null : null
}

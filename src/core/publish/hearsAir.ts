import type { Catalog } from '../catalog/catalog'
import type { Design } from '../model/design'
import { channelOf } from './channelOf'

/** Whether a node has a receiver of codes from the air. */
export const hearsAir = (design: Design, catalog: Catalog): boolean =>
  Object.values(design.signals).some((s) => {
    const channel = channelOf(design, catalog, s)
    return channel?.access === 'event' && channel.driver === 'radio'
  })

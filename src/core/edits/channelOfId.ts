import { channelOf } from '../publish/channelOf'
import type { Catalog } from '../catalog/catalog'
import type { Channel } from '../catalog/part'
import type { Design } from '../model/design'

/** True or false, and nothing else. */
export const isTwoWayState = (channel: Channel | undefined): boolean =>
  channel?.access === 'state' && channel.told === undefined

export const channelOfId = (design: Design, catalog: Catalog, id: string): Channel | undefined => {
  const signal = design.signals[id]
  return signal && channelOf(design, catalog, signal)
}

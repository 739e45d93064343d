import type { Catalog } from '../catalog/catalog'
import type { Channel } from '../catalog/part'
import type { Design, Signal } from '../model/design'
import { madeChannel } from './madeChannel'

/** What a signal makes known: a channel of its part, or the state that is made of one. */
export function channelOf(design: Design, catalog: Catalog, signal: Signal): Channel | undefined {
  const part = design.parts[signal.partId]
  const own = part && catalog.parts[part.kind]?.channels.find((c) => c.id === signal.channel)
  return own && signal.of !== null ? madeChannel(own, signal.conditioning.levels) : own
}

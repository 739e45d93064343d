import type { AirFile, Sender, SenderSignal } from '../model/sender'
import { airSourceOf } from '../model/airSource'
import type { Design } from '../model/design'
import { familyFigures } from '../radio/subghz/family'
import type { Shop } from '../shop/shop'
import type { Surroundings } from './surroundings'

/** A node as others know it. */
export interface Neighbour {
  id: string
  slug: string
}

/** What a node needs to understand the senders it carries; null when it carries none. */
export function airOf(nodeId: string, shop: Shop, nodes: readonly Neighbour[]): AirFile | null {
  const carried = Object.values(shop.senders)
    .filter((s) => s.receivers.includes(nodeId) && s.family in shop.families)
    .sort((a, b) => (a.slug < b.slug ? -1 : 1))
  if (carried.length === 0) return null
  const families = [...new Set(carried.map((s) => s.family))].sort()
  return {
    families: families.flatMap((id) => shop.families[id] ?? []).map(familyFigures),
    senders: carried.map((sender) => compiled(sender, families.indexOf(sender.family), nodeId, nodes)),
  }
}

/** What senders it carries say, as far as its rules wait for it. */
export function toldTo(design: Design, shop: Shop): Surroundings['told'] {
  return Object.fromEntries(
    Object.values(design.rules).flatMap(({ from }) => {
      const ids = airSourceOf(from)
      const sender = ids && shop.senders[ids.senderId]
      const signal = ids && sender?.signals[ids.signalId]
      if (!sender || !signal || !sender.receivers.includes(design.id)) return []
      const words = signal.kind === 'event' ? [...new Set(Object.values(signal.words))].sort() : null
      return [[from, { topic: `${sender.slug}/${signal.slug}`, words }]]
    }),
  )
}

function compiled(
  sender: Sender,
  family: number,
  nodeId: string,
  nodes: readonly Neighbour[],
): AirFile['senders'][number] {
  // A receiver that is gone leaves no gap: who comes after it moves up.
  const known = sender.receivers.flatMap((id) => nodes.find((n) => n.id === id) ?? [])
  const rank = known.findIndex((n) => n.id === nodeId)
  const others = known.filter((n) => n.id !== nodeId).map((n) => n.slug)
  return {
    slug: sender.slug,
    family,
    address: sender.address,
    ...(rank > 0 ? { rank } : {}),
    ...(others.length > 0 ? { others } : {}),
    signals: Object.values(sender.signals)
      .sort((a, b) => a.order - b.order)
      .map(told),
  }
}

function told(signal: SenderSignal): AirFile['senders'][number]['signals'][number] {
  const { slug } = signal
  if (signal.kind === 'event') return { slug, kind: 'event', codes: sorted(signal.words) }
  if (signal.kind === 'flag') return { slug, kind: 'state', at: signal.at, is: signal.is, endS: signal.endS }
  return {
    slug,
    kind: 'state',
    codes: sorted({ [signal.on]: true, ...(signal.off === null ? {} : { [signal.off]: false }) }),
    endS: signal.endS,
    ...(signal.then === 'off' ? { then: false } : {}),
  }
}

/** In the order a file has them, so that what is compiled anew reads as what was sent. */
const sorted = <T>(codes: Record<string, T>): Record<string, T> =>
  Object.fromEntries(Object.entries(codes).sort(([a], [b]) => (a < b ? -1 : 1)))

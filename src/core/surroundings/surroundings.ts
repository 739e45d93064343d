import { z } from 'zod'
import type { Design } from '../model/design'
import { networkSchema, type Shop } from '../shop/shop'

/** What a node's file needs from elsewhere. */
export const surroundingsSchema = z.strictObject({
  place: z
    .string()
    .nullable()
    .describe('name of the place it is in; null when it is in none, or in one the shop does not have'),
  network: networkSchema
    .omit({ order: true })
    .nullable()
    .describe('the network it joins; null when the shop does not have it'),
})
export type Surroundings = z.infer<typeof surroundingsSchema>

/** Nothing is known of what is around: a design by itself. */
export const NO_SURROUNDINGS: Surroundings = { place: null, network: null }

/** Exactly what the file of `design` takes from the shop. The same facts give equal surroundings. */
export function surroundings(design: Design, shop: Shop): Surroundings {
  const place = design.place === null ? undefined : shop.places[design.place]
  const network = shop.networks[design.network.ref]
  return {
    place: place?.name ?? null,
    network: network
      ? { name: network.name, hidden: network.hidden, band: network.band, timeServer: network.timeServer }
      : null,
  }
}

/** What differs between two surroundings, in words; none when a file compiled in either is the same. */
export function surroundingsDiffer(then: Surroundings, now: Surroundings): string[] {
  const out: string[] = []
  if (then.place !== now.place) out.push(`it was in ${then.place ?? 'no place'}, now it is in ${now.place ?? 'none'}`)
  if (then.network?.name !== now.network?.name)
    out.push(`its network was ${then.network?.name ?? 'unknown'}, now it is ${now.network?.name ?? 'gone'}`)
  const clocks = [then, now].map((s) => s.network?.timeServer || 'the gateway')
  if (clocks[0] !== clocks[1]) out.push(`it asked ${clocks[0]} for the time, now it asks ${clocks[1]}`)
  return out
}

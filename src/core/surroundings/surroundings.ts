import { z } from 'zod'
import type { Design } from '../model/design'
import { type AirFile, airSchema } from '../model/sender'
import { canonicalJson } from '../hash/canonicalJson'
import { networkSchema, type Shop } from '../shop/shop'
import { airSourceSchema } from '../model/airSource'
import { saidWord } from '../model/behaviour'
import { airOf, type Neighbour, toldTo } from './airOf'

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
  told: z
    .record(
      airSourceSchema,
      z.strictObject({
        topic: z.string().describe('SENDER/SIGNAL, as topics have it'),
        words: z.array(saidWord).nullable().describe('words of an event; null: a state'),
      }),
    )
    .default({})
    .describe('of those, what rules of this design wait for'),
  air: airSchema.nullable().default(null).describe('senders it hears and speaks for; null: none'),
})
export type Surroundings = z.infer<typeof surroundingsSchema>

/** Nothing is known of what is around: a design by itself. */
export const NO_SURROUNDINGS: Surroundings = { place: null, network: null, told: {}, air: null }

/**
 * Exactly what the file of `design` takes from the shop, and from other nodes: their short names. The same facts give equal
 * surroundings.
 */
export function surroundings(design: Design, shop: Shop, nodes: readonly Neighbour[] = []): Surroundings {
  const place = design.place === null ? undefined : shop.places[design.place]
  const network = shop.networks[design.network.ref]
  return {
    place: place?.name ?? null,
    network: network
      ? { name: network.name, hidden: network.hidden, band: network.band, timeServer: network.timeServer }
      : null,
    told: toldTo(design, shop),
    air: airOf(design.id, shop, nodes),
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
  return [...out, ...airDiffers(then.air, now.air)]
}

function airDiffers(then: AirFile | null, now: AirFile | null): string[] {
  const texts = (air: AirFile | null) => new Map(air?.senders.map((x) => [x.slug, canonicalJson(x)]))
  const [before, after] = [texts(then), texts(now)]
  const out = [...new Set([...before.keys(), ...after.keys()])].flatMap((slug) => {
    if (before.get(slug) === after.get(slug)) return []
    if (!after.has(slug)) return [`it carries ${slug} no more`]
    return [before.has(slug) ? `what it understands of ${slug} is otherwise` : `it carries ${slug} now`]
  })
  const families = (air: AirFile | null) => canonicalJson(air?.families ?? [])
  return out.length === 0 && families(then) !== families(now) ? ['how it reads codes from the air is otherwise'] : out
}

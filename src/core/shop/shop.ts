import { z } from 'zod'
import { idSchema, nameSchema, slugSchema } from '../model/design'
import { senderSchema } from '../model/sender'
import { templateSchema } from '../model/template'
import { familySchema } from '../radio/subghz/family'

export const placeNameSchema = z
  .string()
  .trim()
  .min(1, 'a place of at least one character')
  .max(60, 'a place of at most 60 characters')

/** ISO 4217. Prices are told in it; nothing is converted. */
export const currencySchema = z.string().regex(/^[A-Z]{3}$/, 'three capital letters of ISO 4217, like EUR')

export const networkSchema = z.strictObject({
  order: z.int().min(0),
  name: z.string().min(1, 'the name the network goes by').max(32, 'at most 32 characters: no network has more'),
  hidden: z.boolean().default(false),
  band: z.enum(['2.4', '5', 'both']).default('2.4'),
  timeServer: z
    .string()
    .regex(/^([a-z0-9]([a-z0-9.-]{0,61}[a-z0-9])?)?$/i, 'a name or an address, without a port')
    .default('')
    .describe('who is asked for the time of day by SNTP; empty: the gateway of the network'),
})

/** What belongs to no single node. No password, no login and no address of a broker is in it. */
export const shopSchema = z.strictObject({
  format: z.literal('vivid-node/shop'),
  version: z.literal(1),
  id: z.uuid(),
  name: nameSchema,
  currency: currencySchema.nullable().describe('what prices are told in; null: nobody has said'),
  places: z.record(idSchema, z.strictObject({ order: z.int().min(0), name: placeNameSchema })),
  networks: z.record(slugSchema, networkSchema).describe('by the short name that designs and node files know them by'),
  templates: z
    .record(idSchema, templateSchema)
    .default({})
    .describe('forms of their own in which controllers are told of entities'),
  families: z.record(idSchema, familySchema).default({}).describe('how senders of one make say their codes'),
  senders: z.record(idSchema, senderSchema).default({}).describe('far things that are heard and were not built here'),
})
export type Shop = z.infer<typeof shopSchema>
export type Network = z.infer<typeof networkSchema>

export const MOST_PLACES = 60
export const MOST_NETWORKS = 12

/** A shop as it begins: one network, of the name designs begin with. */
export function emptyShop(id: string, name = 'Shop'): Shop {
  return {
    format: 'vivid-node/shop',
    version: 1,
    id,
    name,
    currency: null,
    places: {},
    networks: { house: { order: 0, name: 'house', hidden: false, band: '2.4', timeServer: '' } },
    templates: {},
    families: {},
    senders: {},
  }
}

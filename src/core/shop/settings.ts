import { z } from 'zod'
import { nameSchema, slugSchema } from '../model/design'

const place = z.string().trim().min(1, 'a place of at least one character').max(60, 'a place of at most 60 characters')

/** An MQTT address: `mqtt://host:port` or `mqtts://host:port`, without name, password or path. */
export const brokerUrlSchema = z
  .string()
  .trim()
  .max(200)
  .refine(
    (text) => brokerParts(text) !== null,
    'mqtt://HOST or mqtts://HOST, with :PORT if it is not the usual one, and nothing after it',
  )

/** What belongs to the shop rather than to one node. No password is in it. */
export const shopSettingsSchema = z.strictObject({
  shop: nameSchema,
  places: z
    .array(place)
    .max(60)
    .refine((p) => new Set(p).size === p.length, 'each place once'),
  networks: z
    .array(
      z.strictObject({
        ref: slugSchema,
        name: z.string().min(1, 'the name the network goes by').max(32, 'at most 32 characters: no network has more'),
        hidden: z.boolean().default(false),
        band: z.enum(['2.4', '5', 'both']).default('2.4'),
      }),
    )
    .min(1, 'at least one network')
    .max(12)
    .refine((n) => new Set(n.map((x) => x.ref)).size === n.length, 'each short name once'),
  broker: z.discriminatedUnion('kind', [
    z.strictObject({ kind: z.literal('own') }),
    z.strictObject({ kind: z.literal('outside'), url: brokerUrlSchema, login: z.string().max(60) }),
  ]),
})
export type ShopSettings = z.infer<typeof shopSettingsSchema>

export const firstSettings: ShopSettings = {
  shop: 'Shop',
  places: [],
  networks: [{ ref: 'house', name: 'house', hidden: false, band: '2.4' }],
  broker: { kind: 'own' },
}

/** Host and port an address names; the port is 1883, or 8883 with TLS, unless said. Null when it is no such address. */
export function brokerParts(text: string): { host: string; port: number; secure: boolean } | null {
  const found = /^(mqtts?):\/\/([a-z0-9.-]+|\[[0-9a-f:]+\])(?::(\d{1,5}))?\/?$/i.exec(text.trim())
  if (!found) return null
  const secure = found[1]?.toLowerCase() === 'mqtts'
  const port = found[3] === undefined ? (secure ? 8883 : 1883) : Number(found[3])
  return port >= 1 && port <= 65535 ? { host: found[2] ?? '', port, secure } : null
}

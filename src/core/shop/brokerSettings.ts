import { z } from 'zod'

/** An MQTT address: `mqtt://host:port` or `mqtts://host:port`, without name, password or path. */
export const brokerUrlSchema = z
  .string()
  .trim()
  .max(200)
  .refine(
    (text) => brokerParts(text) !== null,
    'mqtt://HOST or mqtts://HOST, with :PORT if it is not the usual one, and nothing after it',
  )

/** Where the broker is. Never part of a document: an imported one must not repoint it. No password is in it. */
export const brokerSettingsSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('own') }),
  z.strictObject({
    kind: z.literal('outside'),
    url: brokerUrlSchema,
    login: z.string().max(60),
    nodeLogin: z
      .string()
      .max(60)
      .default('')
      .describe('what nodes log in with there, the same for all; empty: not known here'),
  }),
])
export type BrokerSettings = z.infer<typeof brokerSettingsSchema>

/** Host and port an address names; the port is 1883, or 8883 with TLS, unless said. Null when it is no such address. */
export function brokerParts(text: string): { host: string; port: number; secure: boolean } | null {
  const found = /^(mqtts?):\/\/([a-z0-9.-]+|\[[0-9a-f:]+\])(?::(\d{1,5}))?\/?$/i.exec(text.trim())
  if (!found) return null
  const secure = found[1]?.toLowerCase() === 'mqtts'
  const usualPort = secure ? 8883 : 1883
  const port = found[3] === undefined ? usualPort : Number(found[3])
  return port >= 1 && port <= 65535 ? { host: found[2] ?? '', port, secure } : null
}

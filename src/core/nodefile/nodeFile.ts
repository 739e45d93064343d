import { z } from 'zod'
import { signalSchema } from '../drivers/drivers'
import { usual } from '../drivers/fields'
import { doSchema, forS, saidWord, triggerSchema, WORKS } from '../model/behaviour'
import { slugSchema } from '../model/ids'
import { airSchema } from '../model/sender'

export type { NodeFileSignal } from '../drivers/drivers'

export const guardSchema = z.discriminatedUnion('kind', [
  z
    .strictObject({ kind: z.literal('exclusive'), of: z.array(slugSchema).min(2).max(8) })
    .describe('outputs of which at most one may be on'),
  z
    .strictObject({ kind: z.literal('needs'), output: slugSchema, input: slugSchema, is: z.boolean() })
    .describe('an output that may be on only while an input of the same node is so; it goes off by itself'),
])

export const ruleSchema = z.strictObject({
  from: slugSchema.or(z.string().regex(/^[a-z0-9-]{1,40}\/[a-z0-9-]{1,40}$/)).describe('a signal, or SENDER/SIGNAL'),
  when: triggerSchema
    .or(saidWord)
    .describe(
      "a press, a word a sender says, a state, unknown (null), gone, or a reading that crosses a value in the reading's unit",
    ),
  forS: usual(forS, 0, 'what it waits for has lasted this long, s'),
  to: slugSchema,
  do: doSchema.describe('value the output gets, or toggle'),
  works: usual(
    z.enum(WORKS),
    'always',
    'alone: only while there is no broker; detached: never, the input does not switch what is beside it',
  ),
})

const ip = z.ipv4()
/** What the runtime on the board reads. Compiled from a design; an edited one can be taken back into it. */
export const nodeFileSchema = z.strictObject({
  format: z.literal('vivid-node/node-file'),
  version: z.literal(1),
  revision: z.int().min(1).describe('counts up with every file compiled for this node'),
  id: z.uuid().describe('identity of the node; survives every rename'),
  node: slugSchema.describe('second level of every topic, and the name the node gives itself on the network'),
  name: usual(z.string().max(60), null, 'what people call it'),
  area: usual(z.string().max(60), null, 'where it is'),
  root: slugSchema.describe('first level of every topic'),
  board: z.string().describe('board it was made for'),
  broker: z.strictObject({
    host: z.string(),
    port: z.int().min(1).max(65535),
    print: usual(
      z.string().regex(/^[0-9a-f]{64}$/),
      null,
      'reached through TLS: SHA-256 of the certificate, by which the broker is known',
    ),
    keepAliveS: z
      .int()
      .min(2)
      .max(600)
      .describe('silence after which the broker gives the node up is 1.5 times this, s'),
  }),
  network: z.string().describe('name of the network entry in the credentials file beside this one'),
  address: usual(
    z.strictObject({ ip, mask: ip, gateway: ip, dns: ip }),
    null,
    'fixed address; otherwise the network gives one',
  ),
  timeServer: z.string().max(63).optional().describe('who is asked for the time of day by SNTP; otherwise the gateway'),
  quiet: usual(z.boolean(), false, 'says nothing of itself on its console'),
  healthS: z
    .number()
    .min(1)
    .max(86_400)
    .describe('health (signal strength, uptime, memory) is published this often, s'),
  sleep: usual(
    z.strictObject({
      everyS: z.number().min(5).max(604_800).describe('from one waking to the next, s'),
      listenS: z.number().min(0.5).max(60).describe('listens this long for commands before it sleeps, s'),
    }),
    null,
    'sleeps between its readings',
  ),
  rails: usual(
    z.array(z.strictObject({ pin: z.int().min(0).max(255), settleMs: z.int().min(0).max(1000) })).max(4),
    null,
    'rails it feeds while it is awake: high feeds; parts are believed after the time',
  ),
  supply: slugSchema.optional().describe('reading that health tells as the voltage of what feeds the node'),
  signals: z.array(signalSchema).max(64),
  air: usual(airSchema, null, 'senders it hears and speaks for'),
  guards: usual(z.array(guardSchema).max(16), null, 'what may not be on together, or not without something else'),
  rules: usual(
    z.array(ruleSchema).max(64),
    null,
    'what an input does to an output of the same node, with or without a network',
  ),
})

export type NodeFile = z.infer<typeof nodeFileSchema>
export type Guard = z.infer<typeof guardSchema>
export type LocalRule = z.infer<typeof ruleSchema>

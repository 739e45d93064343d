import { z } from 'zod'

/** Names under `node-` are those of nodes, `proof-` those of contract tests, and `product` is Vivid Node's own. */
export const controllerName = z
  .string()
  .regex(
    /^(?!node-|proof-|product$)[a-z][a-z0-9-]{1,39}$/,
    'two to forty small letters, digits and hyphens, not beginning with “node-” or “proof-” and not “product”',
  )

/** Where the topics of a guest begin: levels without wildcards. */
export const beginnings = z
  .array(
    z
      .string()
      .regex(
        /^[^+#$/\s\0][^+#\s\0]{0,79}(?<!\/)$/,
        'the first levels of topics, such as “weather” or “vn/slip-tank”, without wildcards, blanks or a slash at the end',
      ),
  )
  .max(10)

export const controllerSchema = z.object({
  name: z.string(),
  role: z.enum(['controller', 'guest']),
  topics: z.array(z.string()),
  at: z.string(),
  connections: z.number(),
  /** It listens since, ISO 8601; null: it is not connected, or nobody knows. */
  since: z.string().nullable(),
  /** Offered topics it has not asked for; null: it is not connected. */
  unasked: z.array(z.string()).nullable(),
})
export type ControllerView = z.infer<typeof controllerSchema>
export const controllersSchema = z.object({ controllers: z.array(controllerSchema) })

/** Who may publish and hear what, as a broker elsewhere has to be told: MQTT filters. */
export const accessRow = z.object({
  login: z.string(),
  who: z.string(),
  publish: z.array(z.string()),
  hear: z.array(z.string()),
  not: z.array(z.string()),
})
export type AccessRow = z.infer<typeof accessRow>
export const accessListSchema = z.object({ access: z.array(accessRow) })

/** What a login at an outside broker may beyond its rights. */
export const mayAlsoSchema = z.object({
  came: z.string().nullable(),
  also: z.array(z.object({ does: z.enum(['publishes', 'hears']), topic: z.string(), words: z.string() })),
  lacks: z.array(z.string()),
  anybody: z.boolean(),
})

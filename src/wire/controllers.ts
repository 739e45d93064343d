import { z } from 'zod'

/** Names under `node-` are those of nodes. */
export const controllerName = z
  .string()
  .regex(
    /^(?!node-)[a-z][a-z0-9-]{1,39}$/,
    'two to forty small letters, digits and hyphens, not beginning with “node-”',
  )

export const controllerSchema = z.object({ name: z.string(), at: z.string(), connections: z.number() })
export type ControllerView = z.infer<typeof controllerSchema>
export const controllersSchema = z.object({ controllers: z.array(controllerSchema) })

import { z } from 'zod'
import { idSchema } from '@/core/model/design'
import { problem } from '@/server/http/guard'
import { write } from '@/host/write'

const body = z.strictObject({ signal: idSchema, value: z.union([z.boolean(), z.number(), z.string().max(200)]) })

/** Sends a command to one signal; answers with the node's own answer. */
export function POST(request: Request, context: { params: Promise<{ id: string }> }): Promise<Response> {
  return write(request, body, async ({ signal, value }, product) => {
    const outcome = await product.commands.set((await context.params).id, signal, value)
    return outcome.kind === 'done' ? Response.json({ ms: outcome.ms }) : problem(502, outcome.reason)
  })
}

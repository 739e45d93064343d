import { z } from 'zod'
import { problem } from '@/server/http/guard'
import { write } from '@/host/write'

/** Searches the one-wire lines of a node; answers with the addresses found and how warm each is. */
export function POST(request: Request, context: { params: Promise<{ id: string }> }): Promise<Response> {
  return write(request, z.strictObject({}), async (_, product) => {
    const outcome = await product.commands.find((await context.params).id)
    return 'found' in outcome ? Response.json(outcome) : problem(502, outcome.reason)
  })
}

import { z } from 'zod'
import { problem } from '@/server/http/guard'
import { write } from '@/server/http/write'

/** Compiles the design and sends it to the node; answers when the node has. */
export function POST(request: Request, context: { params: Promise<{ id: string }> }): Promise<Response> {
  return write(request, z.strictObject({}), async (_, product) => {
    const outcome = await product.send((await context.params).id)
    if (!outcome) return problem(404, 'There is no such node.')
    switch (outcome.kind) {
      case 'running': return Response.json(outcome)
      case 'incomplete': return problem(422, `The file cannot be written yet: ${outcome.reasons.join('; ')}.`)
      case 'failed': return problem(502, `Revision ${outcome.revision} does not run: ${outcome.reason}.`)
    }
  })
}

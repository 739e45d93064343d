import { z } from 'zod'
import { problem } from '@/server/http/guard'
import { write } from '@/host/write'

/** Takes a node out of the shop: topics cleared, login gone, history kept. */
export function POST(request: Request, context: { params: Promise<{ id: string }> }): Promise<Response> {
  return write(request, z.strictObject({ author: z.string().max(60) }), async ({ author }, { lifecycle }) => {
    const wrong = await lifecycle.retire((await context.params).id, author)
    return wrong === null ? Response.json({}) : problem(404, wrong)
  })
}

import { z } from 'zod'
import { idSchema } from '@/core/model/design'
import { problem } from '@/server/http/guard'
import { write } from '@/host/write'

const body = z.strictObject({
  signals: z.array(idSchema).max(8),
  everyMs: z.int().min(20).max(60_000),
  forS: z.int().min(0).max(600),
})
type Context = { params: Promise<{ id: string }> }

/** Has a node tell what its parts measure before anything is made of it, for `forS`; 0 ends it. */
export function POST(request: Request, context: Context): Promise<Response> {
  return write(request, body, async (asked, product) => {
    const { id } = await context.params
    if (asked.forS === 0) {
      await product.listening.end(id)
      return Response.json({ kind: 'ended' })
    }
    const begun = await product.listening.begin(id, asked)
    return begun.kind === 'failed' ? problem(502, begun.reason) : Response.json(begun)
  })
}

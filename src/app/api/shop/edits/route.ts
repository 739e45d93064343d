import { shopEditSchema } from '@/core/shop/edits'
import { problem } from '@/server/http/guard'
import { write } from '@/host/write'

/**
 * Saves one edit of the shop document. 200 when the row is in the database, 409 with what was missed when the base is
 * stale, 422 with reason when refused.
 */
export function POST(request: Request): Promise<Response> {
  return write(request, shopEditSchema, async (edit, product) => {
    const outcome = await product.shop.edit(edit)
    switch (outcome.kind) {
      case 'saved':
        return Response.json({ seq: outcome.seq })
      case 'behind':
        return problem(409, 'The shop has been changed elsewhere.', { seq: outcome.seq, missed: outcome.missed })
      case 'refused':
        return problem(422, outcome.reason, { accepts: outcome.accepts })
    }
  })
}

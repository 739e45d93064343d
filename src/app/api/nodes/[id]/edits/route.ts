import { editSchema } from '@/core/edits/edit'
import { problem } from '@/server/http/guard'
import { write } from '@/host/write'

/**
 * Saves one edit. 200 when the row is in the database, 409 with what was missed when the base is stale, 422 with reason
 * when refused.
 */
export function POST(request: Request, context: { params: Promise<{ id: string }> }): Promise<Response> {
  return write(request, editSchema, async (edit, product) => {
    const { id } = await context.params
    if (edit.document !== id) return problem(422, 'The edit names another node than the address.')
    const outcome = await product.workshop.edit(edit)
    switch (outcome.kind) {
      case 'saved':
        return Response.json({ seq: outcome.seq })
      case 'behind':
        return problem(409, 'The node has been changed elsewhere.', { seq: outcome.seq, missed: outcome.missed })
      case 'refused':
        return problem(422, outcome.reason, { accepts: outcome.accepts })
      case 'unknown':
        return problem(404, 'There is no such node.')
    }
  })
}

import { latestLog } from '@/server/db/logbookRows'
import { latestEdits } from '@/server/db/nodeRows'
import { revisionsOf } from '@/server/db/revisionRows'
import { guard, problem } from '@/server/http/guard'
import { answer } from '@/host/write'
import { product } from '@/host/instance'

/** The latest edits, revisions and logbook lines of a node, newest first. */
export function GET(request: Request, context: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => {
    const refused = guard(request)
    if (refused) return refused
    const p = await product()
    const node = p.workshop.get((await context.params).id)
    if (!node) return problem(404, 'There is no such node.')
    const [edits, revisions, log] = await Promise.all([
      latestEdits(p.db, node.id, 100),
      revisionsOf(p.db, node.id),
      latestLog(p.db, node.id, 100),
    ])
    return Response.json({
      edits: edits.map(({ seq, words, author, at }) => ({ seq, words, author, at })),
      revisions,
      log,
    })
  })
}

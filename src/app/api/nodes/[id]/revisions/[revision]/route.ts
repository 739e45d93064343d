import { revisionOf } from '@/server/db/revisionRows'
import { guard, problem } from '@/server/http/guard'
import { answer } from '@/host/write'
import { product } from '@/host/instance'

/** One revision: its file as it was sent, the design it came from and what was around it where that was kept. */
export function GET(
  request: Request,
  context: { params: Promise<{ id: string; revision: string }> },
): Promise<Response> {
  return answer(async () => {
    const refused = guard(request)
    if (refused) return refused
    const { id, revision } = await context.params
    const p = await product()
    const number = Number(revision)
    const kept =
      p.workshop.get(id) && Number.isInteger(number) && number > 0 && number < 2 ** 31
        ? await revisionOf(p.db, id, number)
        : null
    return kept
      ? Response.json({
          revision: kept.revision,
          state: kept.state,
          file: kept.file,
          design: kept.design,
          surroundings: kept.surroundings,
        })
      : problem(404, 'This revision is not kept.')
  })
}

import { csvOf } from '@/core/proof/report'
import { product } from '@/host/instance'
import { answer } from '@/host/write'
import { guard, problem } from '@/server/http/guard'

type Context = { params: Promise<{ id: string }> }

/** A run as a file: JSON, or its lines as CSV with `?as=csv`. */
export function GET(request: Request, context: Context): Promise<Response> {
  return answer(async () => {
    const refused = guard(request)
    if (refused) return refused
    const id = Number((await context.params).id)
    const proof = Number.isSafeInteger(id) ? await (await product()).proofs.one(id) : null
    if (!proof) return problem(404, 'There is no such run; the oldest ones are let go of.')
    const csv = new URL(request.url).searchParams.get('as') === 'csv'
    const name = `proof-${proof.began.slice(0, 16).replaceAll(':', '')}.${csv ? 'csv' : 'json'}`
    const headers = {
      'content-type': csv ? 'text/csv; charset=utf-8' : 'application/json',
      'content-disposition': `attachment; filename="${name}"`,
    }
    return new Response(csv ? csvOf(proof.report.lines) : JSON.stringify(proof.report, null, 2), { headers })
  })
}

import { z } from 'zod'
import { product } from '@/host/instance'
import { answer, write } from '@/host/write'
import { guard, problem } from '@/server/http/guard'
import { proofWishSchema } from '@/wire/proof'

export const dynamic = 'force-dynamic'

/** The newest runs of a node, or of all, what runs now, and what runs by the clock. */
export function GET(request: Request): Promise<Response> {
  return answer(async () => {
    const refused = guard(request)
    if (refused) return refused
    const node = z.uuid().nullable().safeParse(new URL(request.url).searchParams.get('node'))
    if (!node.success) return problem(422, 'node: the id of a node, or nothing for all of them.')
    return Response.json(await (await product()).proofs.list(node.data))
  })
}

/** Begins a run. */
export function POST(request: Request): Promise<Response> {
  return write(request, proofWishSchema, (wish, { proofs }) => {
    const begun = proofs.begin(wish)
    return Promise.resolve(begun.ok ? Response.json({}, { status: 202 }) : problem(begun.status, begun.reason))
  })
}

/** Ends the one that runs, with what it has found so far. */
export function DELETE(request: Request): Promise<Response> {
  return write(request, z.strictObject({}), (_, { proofs }) => {
    proofs.end()
    return Promise.resolve(Response.json({}))
  })
}

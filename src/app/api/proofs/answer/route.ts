import { z } from 'zod'
import { write } from '@/host/write'
import { problem } from '@/server/http/guard'

/** A person says whether what the run asked for is done. */
export function POST(request: Request): Promise<Response> {
  return write(request, z.strictObject({ n: z.int(), yes: z.boolean() }), ({ n, yes }, { proofs }) => {
    const taken = proofs.answer(n, yes)
    return Promise.resolve(taken.ok ? Response.json({}) : problem(taken.status, taken.reason))
  })
}

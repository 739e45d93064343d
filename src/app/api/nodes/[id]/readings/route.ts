import { z } from 'zod'
import { idSchema } from '@/core/model/design'
import { readingsSince } from '@/server/db/messageRows'
import { guard, problem } from '@/server/http/guard'
import { answer } from '@/host/write'
import { product } from '@/host/instance'

const query = z.object({ signal: idSchema, seconds: z.coerce.number().min(1).max(86_400) })

/** Recorded readings of one signal, oldest first. */
export function GET(request: Request, context: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => {
    const refused = guard(request)
    if (refused) return refused
    const parsed = query.safeParse(Object.fromEntries(new URL(request.url).searchParams))
    if (!parsed.success) return problem(422, 'Ask with ?signal=ID&seconds=1…86400.')
    const p = await product()
    const node = p.workshop.get((await context.params).id)
    if (!node) return problem(404, 'There is no such node.')
    return Response.json(await readingsSince(p.db, node.id, parsed.data.signal, parsed.data.seconds))
  })
}

import { product } from '@/host/instance'
import { answer, write } from '@/host/write'
import { guard } from '@/server/http/guard'
import { listenWishSchema } from '@/wire/air'

export const dynamic = 'force-dynamic'

/** What was heard of the air in the last ten minutes, and who listens. */
export function GET(request: Request): Promise<Response> {
  return answer(async () => {
    const refused = guard(request)
    if (refused) return refused
    const { air } = await product()
    return Response.json({ ...air.heard(), listening: air.listening })
  })
}

/** Asks every gateway to pass on what nobody knows, for a time; nought ends it. */
export function POST(request: Request): Promise<Response> {
  return write(request, listenWishSchema, async ({ forS }, { air }) => Response.json(await air.listen(forS)))
}

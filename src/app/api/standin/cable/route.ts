import { product } from '@/host/instance'
import { answer } from '@/host/write'
import { guard, problem } from '@/server/http/guard'

export const dynamic = 'force-dynamic'

/** The simulated board at a cable: its class and what is the matter with it. Only in the demo. */
export function GET(request: Request): Promise<Response> {
  return answer(async () => {
    const refused = guard(request)
    if (refused) return refused
    const cable = (await product()).guest?.cable ?? null
    if (!cable) return problem(404, 'There is no simulated board at a cable here.')
    return Response.json({ chip: cable.chip, trouble: cable.trouble })
  })
}

import { product } from '@/host/instance'
import { answer } from '@/host/write'
import { guard, problem } from '@/server/http/guard'
import { CABLE, CABLE_CHIPS } from '@/wire/deeds'

const PLUGGED_MS = 8000

export const dynamic = 'force-dynamic'

/** The simulated board at a cable: its class and what is the matter with it. Only in the demo. */
export function GET(request: Request): Promise<Response> {
  return answer(async () => {
    const refused = guard(request)
    if (refused) return refused
    const { guest } = await product()
    // The first who asks has it plugged in.
    if (guest && !guest.cable) await guest.ask(CABLE, { plugIn: CABLE_CHIPS[0] })
    for (const end = Date.now() + PLUGGED_MS; guest && !guest.cable && Date.now() < end;)
      await new Promise((r) => setTimeout(r, 100))
    const cable = guest?.cable ?? null
    if (!cable) return problem(404, 'There is no simulated board at a cable here.')
    return Response.json({ chip: cable.chip, trouble: cable.trouble })
  })
}

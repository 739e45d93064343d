import { z } from 'zod'
import { product } from '@/host/instance'
import { answer, write } from '@/host/write'
import { guard, problem } from '@/server/http/guard'

const who = z.string().trim().min(1, 'a name').max(60)
const body = z.union([
  z.strictObject({
    key: z.string().max(120),
    value: z.number().min(-1e9).max(1e9).nullable(),
    ok: z.boolean(),
    who: z.string().trim().max(60),
    remark: z.string().trim().max(300),
  }),
  z.strictObject({ confirm: z.string().max(120), who }),
  z.strictObject({ trial: z.number().min(0.01).max(120), who }),
  z.strictObject({ endTrial: z.literal(true), who }),
])
type Context = { params: Promise<{ id: string }> }

export const dynamic = 'force-dynamic'

/** What was last found at each step, and the trial. */
export function GET(request: Request, context: Context): Promise<Response> {
  return answer(async () => {
    const refused = guard(request)
    if (refused) return refused
    const { workshop, bringUp } = await product()
    const { id } = await context.params
    if (!workshop.get(id)) return problem(404, 'There is no such node.')
    return Response.json({ found: await bringUp.found(id), trial: await bringUp.trial(id) })
  })
}

/** What somebody found at a step, or confirmed before it; the beginning and the end of a trial. */
export function POST(request: Request, context: Context): Promise<Response> {
  return write(request, body, async (said, { workshop, bringUp }) => {
    const { id } = await context.params
    if (!workshop.get(id)) return problem(404, 'There is no such node.')
    const done = await does(said, id, bringUp)
    return done.ok ? Response.json(done.verdict, { status: 201 }) : problem(done.status, done.reason)
  })
}

type BringUp = Awaited<ReturnType<typeof product>>['bringUp']

function does(said: z.infer<typeof body>, id: string, bringUp: BringUp) {
  if ('key' in said) return bringUp.record(id, said)
  if ('confirm' in said) return bringUp.confirm(id, said.confirm, said.who)
  if ('trial' in said) return bringUp.startTrial(id, said.trial, said.who)
  return bringUp.endTrial(id, said.who)
}

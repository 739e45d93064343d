import { z } from 'zod'
import { guard, problem } from '@/server/http/guard'
import { product } from '@/host/instance'
import { answer, write } from '@/host/write'

export const dynamic = 'force-dynamic'

/** Who is behind, why, and in which order they are sent. */
export function GET(request: Request): Promise<Response> {
  return answer(async () => guard(request) ?? Response.json(await (await product()).sending.plan()))
}

/** Sends them one after the other; answers when the last has. */
export function POST(request: Request): Promise<Response> {
  return write(request, z.strictObject({}), async (_, { sending }) => {
    const sent = await sending.send()
    return sent ? Response.json(sent) : problem(409, 'They are being sent already.')
  })
}

/** No further one after the one on its way. */
export function DELETE(request: Request): Promise<Response> {
  return write(request, z.strictObject({}), (_, { sending }) => {
    sending.stop()
    return Promise.resolve(Response.json({ stopped: true }))
  })
}

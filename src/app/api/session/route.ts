import { z } from 'zod'
import { foreign, guard, problem } from '@/server/http/guard'
import { endAllSessions, enter, isLocked, leave } from '@/server/http/session'
import { answer, read } from '@/host/write'

export const dynamic = 'force-dynamic'

const body = z.strictObject({ password: z.string().min(1).max(200) })

/** Opens the shop to this browser. */
export function POST(request: Request): Promise<Response> {
  return read(request, foreign, body, async ({ password }) => {
    const entered = enter(password, request)
    if (entered.kind === 'wait') {
      const words = `Too many attempts. The next one is answered in ${entered.seconds} s.`
      return problem(429, words, {}, { 'retry-after': String(entered.seconds) })
    }
    if (entered.kind === 'wrong') return problem(401, 'This is not the password of the shop.')
    const headers = new Headers()
    for (const cookie of entered.cookies) headers.append('set-cookie', cookie)
    return Response.json({}, { headers })
  })
}

/** Whether a password is asked for here at all. */
export function GET(request: Request): Promise<Response> {
  return answer(async () => guard(request) ?? Response.json({ locked: isLocked() }))
}

/** Ends the session of this browser; with `{"everywhere": true}` those of all browsers. */
export function DELETE(request: Request): Promise<Response> {
  return read(request, guard, z.strictObject({ everywhere: z.boolean() }), async ({ everywhere }) => {
    if (everywhere) endAllSessions()
    return Response.json({}, { headers: { 'set-cookie': leave() } })
  })
}

import { z } from 'zod'
import { foreign, problem } from '@/server/http/guard'
import { enter } from '@/server/http/session'

const body = z.strictObject({ password: z.string().min(1).max(200) })

/** Opens the shop to this browser. */
export async function POST(request: Request): Promise<Response> {
  const refused = foreign(request)
  if (refused) return refused
  const parsed = body.safeParse(await request.json().catch(() => null))
  if (!parsed.success) return problem(422, 'Enter the password of the shop.')
  const cookie = await enter(parsed.data.password, request.headers.get('origin')?.startsWith('https:') ?? false)
  return cookie === null ? problem(401, 'This is not the password of the shop.') : Response.json({}, { headers: { 'set-cookie': cookie } })
}

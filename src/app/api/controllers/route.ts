import { z } from 'zod'
import { guard, problem } from '@/server/http/guard'
import { answer, write } from '@/host/write'
import { product } from '@/host/instance'
import { beginnings, controllerName } from '@/wire/controllers'

export const dynamic = 'force-dynamic'

/** Logins of controllers and guests, without passwords. */
export function GET(request: Request): Promise<Response> {
  return answer(async () => guard(request) ?? Response.json({ controllers: (await product()).controllers.list() }))
}

/** Makes a login, or renews its password. The answer is the one time the password is said. */
export function POST(request: Request): Promise<Response> {
  const body = z.strictObject({ name: controllerName, renew: z.boolean().optional(), topics: beginnings.optional() })
  return write(request, body, async ({ name, renew, topics }, { controllers }) => {
    const made = await (renew ? controllers.renew(name) : controllers.make(name, topics))
    return made.ok
      ? Response.json({ password: made.password }, { status: 201, headers: { 'cache-control': 'no-store' } })
      : problem(422, made.reason)
  })
}

/** Withdraws a login and ends its connections. */
export function DELETE(request: Request): Promise<Response> {
  return write(request, z.strictObject({ name: controllerName }), async ({ name }, { controllers }) => {
    const wrong = await controllers.withdraw(name)
    return wrong === null ? Response.json({}) : problem(404, wrong)
  })
}

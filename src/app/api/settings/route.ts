import { z } from 'zod'
import { brokerSettingsSchema } from '@/core/shop/brokerSettings'
import { guard, problem } from '@/server/http/guard'
import { answer, write } from '@/host/write'
import { product } from '@/host/instance'

export const dynamic = 'force-dynamic'

/** Where the broker is; no password is in it. */
export function GET(request: Request): Promise<Response> {
  return answer(async () => {
    return guard(request) ?? Response.json((await product()).link.settings)
  })
}

const password = z.string().max(200).optional()
const body = z.strictObject({ broker: brokerSettingsSchema, outsidePassword: password, nodePassword: password })

/** Keeps them whole; an empty password takes the kept one away, a missing one leaves it. */
export function POST(request: Request): Promise<Response> {
  return write(request, body, async ({ broker, outsidePassword, nodePassword }, product) => {
    const refused = await product.link.keep(broker, { outside: outsidePassword, nodes: nodePassword }).then(
      () => null,
      (e: unknown) => (e instanceof Error ? e.message : String(e)),
    )
    return refused === null ? Response.json({}) : problem(422, refused)
  })
}

import { z } from 'zod'
import { shopSettingsSchema } from '@/core/shop/settings'
import { guard, problem } from '@/server/http/guard'
import { answer, write } from '@/server/http/write'
import { product } from '@/server/instance'

export const dynamic = 'force-dynamic'

/** The shop's settings; no password is among them. */
export function GET(request: Request): Promise<Response> {
  return answer(async () => {
    return guard(request) ?? Response.json((await product()).settings)
  })
}

const body = z.strictObject({ settings: shopSettingsSchema, outsidePassword: z.string().max(200).optional() })

/** Keeps them whole; an empty password takes the kept one away, a missing one leaves it. */
export function POST(request: Request): Promise<Response> {
  return write(request, body, async ({ settings, outsidePassword }, product) => {
    const refused = await product.keepSettings(settings, outsidePassword).then(
      () => null,
      (e: unknown) => (e instanceof Error ? e.message : String(e)),
    )
    return refused === null ? Response.json({}) : problem(422, refused)
  })
}

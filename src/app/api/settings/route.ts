import { z } from 'zod'
import { shopSettingsSchema } from '@/core/shop/settings'
import { guard } from '@/server/http/guard'
import { write } from '@/server/http/write'
import { product } from '@/server/instance'

export const dynamic = 'force-dynamic'

/** The shop's settings; no password is among them. */
export async function GET(request: Request): Promise<Response> {
  return guard(request) ?? Response.json((await product()).settings)
}

const body = z.strictObject({ settings: shopSettingsSchema, outsidePassword: z.string().max(200).optional() })

/** Keeps them whole; an empty password takes the kept one away, a missing one leaves it. */
export function POST(request: Request): Promise<Response> {
  return write(request, body, async ({ settings, outsidePassword }, product) => {
    await product.keepSettings(settings, outsidePassword)
    return Response.json({})
  })
}

import { guard } from '@/server/http/guard'
import { product } from '@/server/instance'

export const dynamic = 'force-dynamic'

/** The whole state as the live stream begins with. */
export async function GET(request: Request): Promise<Response> {
  return guard(request) ?? Response.json((await product()).snapshot())
}

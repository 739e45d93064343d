import { guard } from '@/server/http/guard'
import { answer } from '@/host/write'
import { product } from '@/host/instance'

export const dynamic = 'force-dynamic'

/** The whole state as the live stream begins with. */
export function GET(request: Request): Promise<Response> {
  return answer(async () => {
    return guard(request) ?? Response.json((await product()).snapshot())
  })
}

import { guard } from '@/server/http/guard'
import { answer } from '@/server/http/write'
import { product } from '@/server/instance'

export const dynamic = 'force-dynamic'

/** The whole state as the live stream begins with. */
export function GET(request: Request): Promise<Response> {
  return answer(async () => {
    return guard(request) ?? Response.json((await product()).snapshot())
  })
}

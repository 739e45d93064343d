import { guard } from '@/server/http/guard'
import { answer } from '@/host/write'
import { product } from '@/host/instance'

export const dynamic = 'force-dynamic'

/** Who may publish and hear what, in MQTT filters: for a broker somebody else runs. No passwords. */
export function GET(request: Request): Promise<Response> {
  return answer(async () => guard(request) ?? Response.json({ access: (await product()).controllers.access() }))
}

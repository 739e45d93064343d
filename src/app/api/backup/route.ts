import { guard } from '@/server/http/guard'
import { product } from '@/server/instance'

export const dynamic = 'force-dynamic'

/** Everything in one file. Broker passwords are not in it, only their hashes. */
export async function GET(request: Request): Promise<Response> {
  const refused = guard(request)
  if (refused) return refused
  const p = await product()
  await p.ingest.flush()
  const day = new Date().toISOString().slice(0, 10)
  return new Response(Buffer.from(await p.db.dump()), { headers: { 'content-type': 'application/gzip', 'content-disposition': `attachment; filename="vivid-node-${day}.tar.gz"`, 'cache-control': 'no-store' } })
}

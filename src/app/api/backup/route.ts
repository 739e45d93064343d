import { Readable } from 'node:stream'
import { guard, problem } from '@/server/http/guard'
import { answer } from '@/host/write'
import { product } from '@/host/instance'

export const dynamic = 'force-dynamic'

/** Everything in one file, packed while it is sent. Broker passwords are not in it, only their hashes. */
export function GET(request: Request): Promise<Response> {
  return answer(async () => {
    const refused = guard(request)
    if (refused) return refused
    const p = await product()
    await p.ingest.buffer.flush()
    const taken = await p.backups.take()
    if (!taken.ok) return problem(taken.busy ? 409 : 507, taken.reason)
    const day = new Date().toISOString().slice(0, 10)
    const headers = {
      'content-type': 'application/gzip',
      'content-disposition': `attachment; filename="vivid-node-${day}.tar.gz"`,
      'cache-control': 'no-store',
    }
    return new Response(Readable.toWeb(taken.archive) as ReadableStream<Uint8Array>, { headers })
  })
}

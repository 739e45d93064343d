import { z } from 'zod'
import { write } from '@/host/write'
import { problem } from '@/server/http/guard'

const body = z.strictObject({ node: z.uuid().nullable(), topics: z.array(z.string().min(1).max(300)).min(1).max(200) })

/** Takes away what the broker keeps on topics that the newest run found left over. */
export function POST(request: Request): Promise<Response> {
  return write(request, body, async ({ node, topics }, { proofs }) => {
    const cleared = await proofs.clear(node, topics)
    return cleared.ok ? Response.json({}) : problem(cleared.status, cleared.reason)
  })
}

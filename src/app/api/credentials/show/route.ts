import { z } from 'zod'
import { slugSchema } from '@/core/model/design'
import { problem } from '@/server/http/guard'
import { write } from '@/host/write'

/** The password of one network in clear: only when asked for, and never kept by anything on the way. */
export function POST(request: Request): Promise<Response> {
  return write(request, z.strictObject({ ref: slugSchema }), async ({ ref }, { credentials }) => {
    const way = credentials.wayIn(ref)
    return way
      ? Response.json({ password: way.password }, { headers: { 'cache-control': 'no-store' } })
      : problem(404, 'No password is kept for this network, or its key is lost: enter it anew.')
  })
}

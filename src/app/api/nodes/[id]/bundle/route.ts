import { z } from 'zod'
import { problem } from '@/server/http/guard'
import { write } from '@/host/write'

const body = z.strictObject({ passwords: z.boolean() })

/** The install bundle as a zip. With passwords the node gets a new login: the one before stops working. */
export function POST(request: Request, context: { params: Promise<{ id: string }> }): Promise<Response> {
  return write(request, body, async ({ passwords }, product) => {
    const made = await product.bundles.make((await context.params).id, passwords)
    if (!made.ok) return problem(422, made.reason)
    return new Response(new Uint8Array(made.zip), {
      headers: {
        'content-type': 'application/zip',
        'content-disposition': `attachment; filename="${made.name}"`,
        'cache-control': 'no-store',
      },
    })
  })
}

import { product } from '@/host/instance'
import { answer } from '@/host/write'
import { guard, problem } from '@/server/http/guard'

export const dynamic = 'force-dynamic'

/** What the simulated board at a cable takes for an interpreter: laid out as one, and none. Only in the demo. */
export function GET(request: Request): Promise<Response> {
  return answer(async () => {
    const refused = guard(request)
    if (refused) return refused
    const { guest } = await product()
    const image = guest?.cableImage() ?? null
    if (!image) return problem(404, 'There is no simulated board at a cable here.')
    return new Response(new Uint8Array(image), {
      headers: {
        'content-type': 'application/octet-stream',
        'content-disposition': `attachment; filename="stand-in-${guest?.cable?.chip ?? ''}.bin"`,
        'cache-control': 'no-store',
      },
    })
  })
}

import { designText } from '@/core/model/readDesign'
import { guard, problem } from '@/server/http/guard'
import { answer } from '@/host/write'
import { product } from '@/host/instance'

/** The design as a file that stands alone: what it uses beside the built-in catalogue is in it. */
export function GET(request: Request, context: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => {
    const refused = guard(request)
    if (refused) return refused
    const node = (await product()).workshop.get((await context.params).id)
    if (!node) return problem(404, 'There is no such node.')
    return new Response(designText(node.design), {
      headers: {
        'content-type': 'application/json',
        'content-disposition': `attachment; filename="${node.design.slug}.json"`,
        'cache-control': 'no-store',
      },
    })
  })
}

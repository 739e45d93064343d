import { z } from 'zod'
import { problem } from '@/server/http/guard'
import { write } from '@/host/write'

const body = z.strictObject({
  finding: z.string().max(200),
  name: z.string().trim().min(2, 'a name of at least two characters').max(60),
})

/** Puts a person's name to a caution that stands in the design now. */
export function POST(request: Request, context: { params: Promise<{ id: string }> }): Promise<Response> {
  return write(request, body, async ({ finding, name }, product) => {
    const node = product.workshop.get((await context.params).id)
    const standing =
      node &&
      (await product.derived.work('checks', node.design, product.around(node.design))).find((f) => f.key === finding)
    if (!node || !standing?.caution) return problem(404, 'This caution does not stand in the design any more.')
    await product.workshop.acknowledge(node.id, finding, name, standing.caution.title)
    return Response.json({}, { status: 201 })
  })
}

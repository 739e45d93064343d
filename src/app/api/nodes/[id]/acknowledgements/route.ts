import { z } from 'zod'
import { problem } from '@/server/http/guard'
import { write } from '@/host/write'

const body = z.strictObject({
  findings: z.array(z.string().max(200)).min(1).max(64).describe('keys of cautions that say the same'),
  name: z.string().trim().min(2, 'a name of at least two characters').max(60),
})

/** Puts a person's name to cautions that stand in the design now. One that does not ends it before any is written. */
export function POST(request: Request, context: { params: Promise<{ id: string }> }): Promise<Response> {
  return write(request, body, async ({ findings, name }, product) => {
    const node = product.workshop.get((await context.params).id)
    if (!node) return problem(404, 'There is no such node.')
    const all = await product.derived.work('checks', node.design, product.around(node.design))
    const standing = findings.map((key) => all.find((f) => f.key === key))
    const titles = standing.flatMap((f) => (f?.caution ? [f.caution.title] : []))
    if (titles.length < findings.length) return problem(404, 'This caution does not stand in the design any more.')
    for (const [i, key] of findings.entries()) await product.workshop.acknowledge(node.id, key, name, titles[i] ?? '')
    return Response.json({}, { status: 201 })
  })
}

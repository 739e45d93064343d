import { supplyHistory } from '@/server/db/supplyRows'
import { supplySignals } from '@/core/energy/supplySignals'
import { guard, problem } from '@/server/http/guard'
import { answer } from '@/host/write'
import { product } from '@/host/instance'

/** Voltages a node told of its cell, hour by hour, with the temperature beside them where it tells one. */
export function GET(request: Request, context: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => {
    const refused = guard(request)
    if (refused) return refused
    const p = await product()
    const node = p.workshop.get((await context.params).id)
    if (!node) return problem(404, 'There is no such node.')
    const of = supplySignals(node.design, p.catalog)
    return Response.json({ points: of ? await supplyHistory(p.db, node.id, of) : [] })
  })
}

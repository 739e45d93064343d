import { z } from 'zod'
import { judgeMeasurement } from '@/core/wiring/workSteps'
import { insertMeasurement, lastMeasurements } from '@/server/db/logbookRows'
import { guard, problem } from '@/server/http/guard'
import { answer, write } from '@/host/write'
import { product } from '@/host/instance'

const body = z.strictObject({
  place: z.string().max(100),
  value: z.number().min(-1e9).max(1e9),
  who: z.string().trim().max(60),
})
type Context = { params: Promise<{ id: string }> }

/** The last reading of every place. */
export function GET(request: Request, context: Context): Promise<Response> {
  return answer(async () => {
    const refused = guard(request)
    if (refused) return refused
    const p = await product()
    const node = p.workshop.get((await context.params).id)
    if (!node) return problem(404, 'There is no such node.')
    return Response.json({ measurements: await lastMeasurements(p.db, node.id) })
  })
}

/** A reading of a place the wiring asks to measure; the verdict is the core's, not the page's. */
export function POST(request: Request, context: Context): Promise<Response> {
  return write(request, body, async ({ place, value, who }, p) => {
    const node = p.workshop.get((await context.params).id)
    if (!node) return problem(404, 'There is no such node.')
    const { design } = node
    const step = (await p.derived.work('steps', design)).find((s) => s.kind === 'measure' && s.key === place)
    if (step?.kind !== 'measure') return problem(404, 'This wiring asks for no such measurement any more.')
    const verdict = judgeMeasurement(step.measure, value)
    const { unit, title } = step.measure
    await insertMeasurement(
      p.db,
      node.id,
      { place, value, unit, ok: verdict.ok, who },
      `measured ${title}: ${value} ${unit}, ${verdict.ok ? 'as it should be' : 'not as it should be'}`,
    )
    return Response.json(verdict, { status: 201 })
  })
}

import { z } from 'zod'
import { idSchema } from '@/core/model/design'
import { traceSchema } from '@/core/trace/trace'
import { product } from '@/host/instance'
import { answer, write } from '@/host/write'
import { keepTrace, tracesOf } from '@/server/db/traceRows'
import { guard, problem } from '@/server/http/guard'

/** A million samples as JSON. */
const LARGEST = 48_000_000
const body = z.strictObject({ id: z.uuid(), signal: idSchema, trace: traceSchema })

/** The traces that are kept of a node, without their samples. */
export function GET(request: Request, context: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => {
    const refused = guard(request)
    if (refused) return refused
    const p = await product()
    const node = p.workshop.get((await context.params).id)
    if (!node) return problem(404, 'There is no such node.')
    return Response.json(await tracesOf(p.db, node.id))
  })
}

/** Keeps a trace of a signal; sent again under the same id it takes its own place. */
export function POST(request: Request, context: { params: Promise<{ id: string }> }): Promise<Response> {
  return write(
    request,
    body,
    async ({ id, signal, trace }, p) => {
      const node = p.workshop.get((await context.params).id)
      if (!node?.design.signals[signal]) return problem(404, 'There is no such signal.')
      await keepTrace(p.db, node.id, signal, id, trace)
      return Response.json({ id }, { status: 201 })
    },
    LARGEST,
  )
}

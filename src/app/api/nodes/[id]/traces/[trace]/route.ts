import { z } from 'zod'
import { nameSchema } from '@/core/model/design'
import { markSchema } from '@/core/trace/trace'
import { marksCsv, samplesCsv, samplesSenml } from '@/core/trace/traceText'
import { product } from '@/host/instance'
import { answer, write } from '@/host/write'
import { changeTrace, dropTrace, traceOf } from '@/server/db/traceRows'
import { guard, problem } from '@/server/http/guard'

type Context = { params: Promise<{ id: string; trace: string }> }
const asked = z.object({ as: z.enum(['json', 'csv', 'marks', 'senml']).default('json') })

/** One trace: as the page reads it, or as a file: `?as=csv`, `senml` or `marks`. */
export function GET(request: Request, context: Context): Promise<Response> {
  return answer(async () => {
    const refused = guard(request)
    if (refused) return refused
    const as = asked.safeParse(Object.fromEntries(new URL(request.url).searchParams))
    if (!as.success) return problem(422, 'Ask with ?as=json, csv, marks or senml.')
    const { id, trace } = await context.params
    const p = await product()
    const slug = p.workshop.get(id)?.design.slug
    const found = z.uuid().safeParse(trace).success ? await traceOf(p.db, id, trace) : null
    if (!found || slug === undefined) return problem(404, 'There is no such trace.')
    const name = p.workshop.get(id)?.design.signals[found.signal]?.slug ?? found.signal
    const file = (text: string, type: string, end: string) =>
      new Response(text, {
        headers: {
          'content-type': `${type}; charset=utf-8`,
          'content-disposition': `attachment; filename="${slug}-${name}${end}"`,
        },
      })
    switch (as.data.as) {
      case 'csv':
        return file(samplesCsv(found, name), 'text/csv', '.csv')
      case 'marks':
        return file(marksCsv(found.marks), 'text/csv', '-marks.csv')
      case 'senml':
        return file(samplesSenml(found, `${slug}/${name}`), 'application/senml+json', '.senml.json')
      case 'json':
        return Response.json(found)
    }
  })
}

const change = z.strictObject({
  name: nameSchema.optional(),
  marks: z.array(markSchema).max(500).optional(),
  drop: z.boolean().optional(),
})

/** Names it anew, marks it, or drops it. */
export function POST(request: Request, context: Context): Promise<Response> {
  return write(request, change, async ({ drop, ...changed }, p) => {
    const { id, trace } = await context.params
    if (!z.uuid().safeParse(trace).success) return problem(404, 'There is no such trace.')
    await (drop ? dropTrace(p.db, id, trace) : changeTrace(p.db, id, trace, changed))
    return Response.json({})
  })
}

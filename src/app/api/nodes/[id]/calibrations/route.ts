import { z } from 'zod'
import { fitLine } from '@/core/calibration/fitLine'
import { idSchema } from '@/core/model/design'
import { insertCalibration } from '@/server/db/logbookRows'
import { problem } from '@/server/http/guard'
import { write } from '@/host/write'

const body = z.strictObject({
  id: z.uuid(),
  signal: idSchema,
  initials: z.string().trim().min(1).max(10),
  reference: z.string().trim().min(1).max(80),
  pairs: z
    .array(z.strictObject({ raw: z.number(), reference: z.number() }))
    .min(1)
    .max(200),
})

/** Keeps the record a calibration rests on: pairs, reference, initials. The fit is computed here again. */
export function POST(request: Request, context: { params: Promise<{ id: string }> }): Promise<Response> {
  return write(request, body, async ({ id, signal, initials, reference, pairs }, product) => {
    const node = product.workshop.get((await context.params).id)
    const tag = node?.design.signals[signal]?.tag
    if (!node || tag === undefined) return problem(404, 'There is no such signal.')
    const fit = fitLine(pairs)
    if (fit.kind === 'none') return problem(422, `No calibration follows from these pairs: ${fit.reason}.`)
    const kept = { gain: fit.gain, offset: fit.offset, residuals: fit.residuals, freedom: fit.freedom }
    await insertCalibration(
      product.db,
      { id, node: node.id, signal, initials, reference, pairs, fit: kept },
      `${tag} calibrated with ${pairs.length} ${pairs.length === 1 ? 'pair' : 'pairs'} against ${reference}`,
    )
    return Response.json({ gain: fit.gain, offset: fit.offset }, { status: 201 })
  })
}

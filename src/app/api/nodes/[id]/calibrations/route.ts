import { z } from 'zod'
import { fit } from '@/core/calibration/fit'
import { MODEL_NAMES } from '@/core/calibration/models'
import { nominalOf } from '@/core/calibration/suits'
import { idSchema } from '@/core/model/design'
import { channelOf } from '@/core/publish/describe'
import { insertCalibration } from '@/server/db/logbookRows'
import { problem } from '@/server/http/guard'
import { write } from '@/host/write'

const number = z.number().min(-1e9).max(1e9)
const uncertainty = z.number().min(0).max(1e9).optional()
const body = z.strictObject({
  id: z.uuid(),
  signal: idSchema,
  initials: z.string().trim().min(1).max(10),
  reference: z.string().trim().min(1).max(80),
  model: z.enum(MODEL_NAMES).default('line'),
  common: z.number().min(0).max(1e9).default(0),
  pairs: z
    .array(
      z.strictObject({
        raw: number,
        reference: number,
        u: uncertainty,
        scatter: uncertainty,
        aside: z.string().trim().min(1).max(80).optional(),
      }),
    )
    .min(1)
    .max(200),
})

/** Keeps the record a calibration rests on: pairs, those set aside too, reference, initials. The fit is made here again. */
export function POST(request: Request, context: { params: Promise<{ id: string }> }): Promise<Response> {
  return write(request, body, async ({ id, signal, initials, reference, model, common, pairs }, product) => {
    const node = product.workshop.get((await context.params).id)
    const of = node?.design.signals[signal]
    if (!node || !of) return problem(404, 'There is no such signal.')
    const channel = channelOf(node.design, product.catalog, of)
    const nominal = channel ? nominalOf(channel, node.design.parts[of.partId]?.settings ?? {}) : null
    const counted = pairs.filter((p) => p.aside === undefined)
    const made = fit(model, counted, { common, nominal })
    if (made.kind === 'none') return problem(422, `No calibration follows from these pairs: ${made.reason}.`)
    const { gain, offset, curve, span, parameters, residuals, freedom, residual, leftOut, points } = made
    const kept = { model, common, gain, offset, curve, span, parameters, residuals, freedom, residual, leftOut }
    await insertCalibration(
      product.db,
      { id, node: node.id, signal, initials, reference, pairs, fit: kept },
      `${of.tag} calibrated with ${points} ${points === 1 ? 'pair' : 'pairs'} against ${reference}`,
    )
    return Response.json({ gain, offset, curve, span, points }, { status: 201 })
  })
}

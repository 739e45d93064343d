import { z } from 'zod'
import type { Catalog } from '@/core/catalog/catalog'
import { checkAgainst, type KeptCalibration, keptCalibrationSchema } from '@/core/calibration/history'
import { fit } from '@/core/calibration/fit'
import { MODEL_NAMES } from '@/core/calibration/models'
import { nominalOf } from '@/core/calibration/suits'
import { type Design, idSchema, type Signal } from '@/core/model/design'
import { channelOf } from '@/core/publish/channelOf'
import {
  type CalibratedPart,
  type CalibrationRow,
  calibrationsOf,
  insertCalibration,
} from '@/server/db/calibrationRows'
import { guard, problem } from '@/server/http/guard'
import { product } from '@/host/instance'
import { answer, write } from '@/host/write'

const number = z.number().min(-1e9).max(1e9)
const uncertainty = z.number().min(0).max(1e9).optional()
const body = z.strictObject({
  id: z.uuid(),
  signal: idSchema,
  initials: z.string().trim().min(1).max(10),
  reference: z.string().trim().min(1).max(80),
  model: z.enum(MODEL_NAMES).default('line'),
  common: z.number().min(0).max(1e9).default(0),
  check: z.boolean().default(false).describe('only looks whether the calibration in force still holds'),
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

const partOf = (design: Design, { partId, channel }: Signal): CalibratedPart => ({
  kind: design.parts[partId]?.kind ?? '',
  channel,
  rom: design.parts[partId]?.rom ?? null,
})

/** Keeps the record a calibration or a check rests on: pairs, those set aside too, reference, initials. The fit is made here again. */
export function POST(request: Request, context: { params: Promise<{ id: string }> }): Promise<Response> {
  return write(request, body, async (said, product) => {
    const node = product.workshop.get((await context.params).id)
    const of = node?.design.signals[said.signal]
    if (!node || !of) return problem(404, 'There is no such signal.')
    const { id, signal, initials, reference, pairs } = said
    const record = { id, node: node.id, signal, initials, reference, pairs, part: partOf(node.design, of) }
    const counted = pairs.filter((p) => p.aside === undefined)
    if (said.check) {
      const { calibration } = of
      if (!calibration) return problem(409, `${of.tag} has no calibration that could be checked.`)
      const before = await rowsOf(product.db, node.id, signal, node.design, of)
      const u95 = before.find((r) => r.id === calibration.recordId)?.made?.u95 ?? null
      const check = checkAgainst(calibration, u95, counted, said.common)
      const how = { true: 'still holds', false: 'holds no longer', null: 'cannot be judged' }[`${check.holds}`]
      await insertCalibration(
        product.db,
        { ...record, fit: { check } },
        `${of.tag} checked against ${reference}: ${how}`,
      )
      return Response.json(check, { status: 201 })
    }
    const made = fitOf(said, counted, node.design, of, product.catalog)
    if (made.kind === 'none') return problem(422, `No calibration follows from these pairs: ${made.reason}.`)
    const { gain, offset, curve, span, parameters, residuals, freedom, residual, leftOut, points } = made
    const u95 = made.expanded95((span.min + span.max) / 2)
    const { model, common } = said
    const kept = { model, common, gain, offset, curve, span, u95, parameters, residuals, freedom, residual, leftOut }
    await insertCalibration(
      product.db,
      { ...record, fit: kept },
      `${of.tag} calibrated with ${points} ${points === 1 ? 'pair' : 'pairs'} against ${reference}`,
    )
    return Response.json({ gain, offset, curve, span, points }, { status: 201 })
  })
}

function fitOf(
  { model, common }: z.infer<typeof body>,
  counted: z.infer<typeof body>['pairs'],
  design: Design,
  of: Signal,
  catalog: Catalog,
) {
  const channel = channelOf(design, catalog, of)
  const nominal = channel ? nominalOf(channel, design.parts[of.partId]?.settings ?? {}) : null
  return fit(model, counted, { common, nominal })
}

/** What is kept of this signal’s calibrations, newest first, and of parts of the same kind elsewhere in the shop. */
export function GET(request: Request, context: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => {
    const refused = guard(request)
    if (refused) return refused
    const signal = idSchema.safeParse(new URL(request.url).searchParams.get('signal'))
    if (!signal.success) return problem(422, 'Ask with ?signal=ID.')
    const p = await product()
    const node = p.workshop.get((await context.params).id)
    const of = node?.design.signals[signal.data]
    if (!node || !of) return problem(404, 'There is no such signal.')
    const rows = await calibrationsOf(p.db, { node: node.id, signal: signal.data, part: partOf(node.design, of) })
    const here = (r: CalibrationRow) => r.node_id === node.id && r.signal_id === signal.data
    const rom = node.design.parts[of.partId]?.rom ?? null
    return Response.json({
      own: rows.filter(here).map(keptOf),
      elsewhere: rows
        .filter((r) => !here(r) && keptOf(r).made !== null)
        .map((r) => {
          const other = p.workshop.get(r.node_id)?.design
          const name = `${other?.name ?? 'a node that is gone'} ${other?.signals[r.signal_id]?.tag ?? ''}`.trim()
          return { ...keptOf(r), of: name, same: rom !== null && r.rom === rom }
        }),
    })
  })
}

const rowsOf = async (
  db: Parameters<typeof calibrationsOf>[0],
  node: string,
  signal: string,
  design: Design,
  of: Signal,
) => (await calibrationsOf(db, { node, signal, part: partOf(design, of) })).map(keptOf)

/** What is kept as the page and the core know it: from before there were bands and checks too. */
function keptOf({ id, at, initials, reference, points, fit: f }: CalibrationRow): KeptCalibration {
  const made = 'check' in f ? null : { model: 'line', curve: null, span: null, u95: null, ...f }
  return keptCalibrationSchema.parse({
    id,
    at: at.toISOString(),
    initials,
    reference,
    points,
    made,
    check: 'check' in f ? f.check : null,
  })
}

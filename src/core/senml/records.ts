import { z } from 'zod'

const packSchema = z.array(
  z.looseObject({
    bt: z.number().optional(),
    bn: z.string().optional(),
    bv: z.number().optional(),
    n: z.string().optional(),
    t: z.number().optional(),
    v: z.number().optional(),
    vb: z.boolean().optional(),
  }),
)

export interface SenmlRecord {
  name: string
  /** s; below 2^28 relative to now (RFC 8428, 4.5.3). */
  t: number
  v: number
}

/** Resolved records of a SenML pack in JSON (RFC 8428): base name, base time and base value worked in, in their order. */
export function senmlRecords(
  text: string,
): { kind: 'records'; records: SenmlRecord[] } | { kind: 'none'; reason: string } {
  let json: unknown
  try {
    json = JSON.parse(text)
  } catch {
    return { kind: 'none', reason: 'it begins like SenML and is not JSON' }
  }
  const pack = packSchema.safeParse(json)
  if (!pack.success)
    return { kind: 'none', reason: `not a SenML pack: ${pack.error.issues[0]?.path.join(' › ') ?? ''}` }
  let [bt, bn, bv] = [0, '', 0]
  const records: SenmlRecord[] = []
  for (const r of pack.data) {
    bt = r.bt ?? bt
    bn = r.bn ?? bn
    bv = r.bv ?? bv
    const v = r.v ?? (r.vb === undefined ? undefined : Number(r.vb))
    if (v !== undefined) records.push({ name: bn + (r.n ?? ''), t: bt + (r.t ?? 0), v: r.v === undefined ? v : bv + v })
  }
  return { kind: 'records', records }
}

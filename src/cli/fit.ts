import { compareModels } from '../core/calibration/compare'
import { fit, type Fit } from '../core/calibration/fit'
import { MODEL_NAMES, MODELS, type ModelName } from '../core/calibration/models'
import { readPairs } from '../core/calibration/readPairs'

interface Asked {
  model?: string
  /** Standard uncertainty all references share, in their unit. */
  common?: number
  /** Thermistor as sold, Ω at 25 °C and β in K. */
  ohm25?: number
  beta?: number
  json?: boolean
}

/** What can be made of the pairs in a CSV: coefficients, standard errors, residuals, bands. Throws in words. */
export function fitPairs(text: string, asked: Asked): string {
  const read = readPairs(text)
  if (read.kind === 'none') throw new Error(read.reason)
  const named = MODEL_NAMES.find((m) => m === asked.model)
  if (asked.model !== undefined && named === undefined)
    throw new Error(`There is no model “${asked.model}”: --model takes ${MODEL_NAMES.join(', ')}.`)
  const nominal = asked.ohm25 && asked.beta ? { ohm25: asked.ohm25, betaK: asked.beta } : null
  const options = { common: asked.common ?? 0, nominal }
  const { all, proposed } = compareModels(read.pairs, options)
  const model: ModelName | null = named ?? proposed
  if (model === null) throw new Error('Nothing can be made of these pairs.')
  const made = fit(model, read.pairs, options)
  if (made.kind === 'none') throw new Error(`No ${MODELS[model].title} follows from these pairs: ${made.reason}.`)
  const bands = bandsOf(made)
  if (asked.json) {
    const models = all.map((c) => ({ model: c.model, leftOut: c.fitted?.leftOut ?? null, reason: c.reason }))
    // What is a function of the reading has no place in JSON: the bands say it at five.
    return JSON.stringify({ ...made, bands, models }, null, 2)
  }
  const n = (v: number | null) => (v === null ? 'no estimate' : Number(v.toPrecision(6)).toString())
  return [
    `${MODELS[model].title}${named ? '' : ', proposed'}: ${made.points} pairs, ${made.freedom} degrees of freedom`,
    ...made.parameters.map((p) => `  ${p.name}: ${n(p.value)} ± ${n(p.error)}`),
    `  standard deviation about it: ${n(made.residual)}`,
    `  misses a left-out pair by: ${n(made.leftOut)}`,
    'reads → corrected, 95 % band:',
    ...bands.map((b) => `  ${n(b.raw)} → ${n(b.corrected)} ± ${n(b.expanded95)}`),
    'pairs, what is left over:',
    ...read.pairs.map(
      (p, i) =>
        `  ${n(p.raw)}, ${n(p.reference)}: ${n(made.residuals[i] ?? null)}${made.strangers.includes(i) ? '   does not belong to the others' : ''}`,
    ),
    'other models, by how far they miss a left-out pair:',
    ...all
      .filter((c) => c.model !== model)
      .map((c) => `  ${MODELS[c.model].title}: ${c.fitted ? n(c.fitted.leftOut) : c.reason}`),
  ].join('\n')
}

const bandsOf = ({ span, corrected, expanded95 }: Fit) =>
  [0, 0.25, 0.5, 0.75, 1].map((share) => {
    const raw = span.min + share * (span.max - span.min)
    return { raw, corrected: corrected(raw), expanded95: expanded95(raw) }
  })

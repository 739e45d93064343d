import { fixed, signed } from '../units/format'
import type { Working } from '../working/working'
import type { Fit } from './fit'
import { MODELS } from './models'
import type { Pair } from './pair'

/** The arithmetic of a fit with its numbers in it. `scale` turns the reading's unit into `unit` for display. */
export function fitWorking(pairs: readonly Pair[], fit: Fit, scale: number, unit: string, decimals: number): Working {
  const show = (v: number) => `${fixed(v * scale, decimals)} ${unit}`
  const [a, b] = pairs
  const steps =
    fit.model === 'line' && pairs.length === 2 && a && b
      ? [
          {
            gives: 'gain',
            formula: 'a = (y₂ − y₁) / (x₂ − x₁)',
            numbers: `(${show(b.reference)} − ${show(a.reference)}) / (${show(b.raw)} − ${show(a.raw)})`,
            result: `× ${fixed(fit.gain, 4)}`,
          },
          {
            gives: 'offset',
            formula: 'b = y₁ − a · x₁',
            numbers: `${show(a.reference)} − ${fixed(fit.gain, 4)} · ${show(a.raw)}`,
            result: `${signed(fit.offset * scale, decimals)} ${unit}`,
          },
        ]
      : fit.parameters.map((p) => ({
          gives: p.name,
          formula: FORMULA[fit.model],
          numbers: `${pairs.length} ${pairs.length === 1 ? 'pair' : 'pairs'}`,
          result: parameterWords(fit, p, scale, unit, decimals),
        }))
  return { steps, source: source(fit) }
}

const FORMULA: Record<Fit['model'], string> = {
  offset: 'b = Σ (y − x) / n',
  gain: 'a = Σ x·y / Σ x²',
  line: 'Σ (y − a·x − b)² least',
  quadratic: 'Σ (y − c₀ − c₁·x − c₂·x²)² least',
  beta: 'Σ (t − 1/(1/298.15 + ln(R/R₂₅)/β) + 273.15)² least',
  steinhart: 'Σ (t − 1/(A + B·ln R + C·ln³R) + 273.15)² least',
  power: 'Σ (y − a·xᵇ)² least',
  exponential: 'Σ (y − a·e^(b·x))² least',
  table: 'through every pair',
}

/** `× 1.0032 ± 0.0004`, `+3.1 ± 0.2 mm`, or the bare number where a model has units of its own. */
export function parameterWords(
  { model }: Pick<Fit, 'model'>,
  { name, value, error }: Fit['parameters'][number],
  scale: number,
  unit: string,
  decimals: number,
): string {
  if (model === 'offset' || (model === 'line' && name === 'offset'))
    return `${signed(value * scale, decimals)}${error === null ? '' : ` ± ${fixed(error * scale, decimals)}`} ${unit}`
  if (name === 'gain') return `× ${fixed(value, 4)}${error === null ? '' : ` ± ${fixed(error, 4)}`}`
  return `${figures(value)}${error === null ? '' : ` ± ${figures(error)}`}`
}

/** Four figures, without an exponent where that can be read. */
const figures = (v: number): string => (v === 0 ? '0' : Number(v.toPrecision(4)).toString()).replace('-', '−')

function source(fit: Fit): string {
  if (MODELS[fit.model].title === 'table')
    return 'Goes through every pair exactly: nothing is left over to estimate an error from.'
  if (fit.freedom > 0) return 'Least squares; errors are standard errors.'
  const n = ['No pairs leave', 'One pair leaves', 'Two pairs leave', 'Three pairs leave'][fit.points] ?? 'These leave'
  return `${n} no estimate of error: it passes through them exactly, right or wrong. One pair more would tell.`
}

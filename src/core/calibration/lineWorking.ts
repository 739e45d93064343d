import type { Working } from '../working/working'
import { fixed, signed } from '../units/format'
import type { LineFit, Pair } from './fitLine'

/** The arithmetic of a fit with its numbers in it. `scale` turns the reading's unit into `unit` for display. */
export function lineWorking(
  pairs: readonly Pair[],
  fit: Extract<LineFit, { kind: 'line' }>,
  scale: number,
  unit: string,
  decimals: number,
): Working {
  const show = (v: number) => `${fixed(v * scale, decimals)} ${unit}`
  const [a, b] = pairs
  const steps = []
  if (pairs.length === 1 && a) {
    steps.push({
      gives: 'offset from one pair',
      formula: 'b = y₁ − x₁',
      numbers: `${show(a.reference)} − ${show(a.raw)}`,
      result: `${signed(fit.offset * scale, decimals)} ${unit}`,
    })
  } else if (pairs.length === 2 && a && b) {
    steps.push({
      gives: 'gain',
      formula: 'a = (y₂ − y₁) / (x₂ − x₁)',
      numbers: `(${show(b.reference)} − ${show(a.reference)}) / (${show(b.raw)} − ${show(a.raw)})`,
      result: `× ${fixed(fit.gain, 4)}`,
    })
    steps.push({
      gives: 'offset',
      formula: 'b = y₁ − a · x₁',
      numbers: `${show(a.reference)} − ${fixed(fit.gain, 4)} · ${show(a.raw)}`,
      result: `${signed(fit.offset * scale, decimals)} ${unit}`,
    })
  } else {
    steps.push({
      gives: 'gain',
      formula: 'a = Σ(x−x̄)(y−ȳ) / Σ(x−x̄)²',
      numbers: `${pairs.length} ${pairs.length === 1 ? 'pair' : 'pairs'}`,
      result: `× ${fixed(fit.gain, 4)}${fit.error ? ` ± ${fixed(fit.error.gain, 4)}` : ''}`,
    })
    steps.push({
      gives: 'offset',
      formula: 'b = ȳ − a · x̄',
      numbers: `${pairs.length} ${pairs.length === 1 ? 'pair' : 'pairs'}`,
      result: `${signed(fit.offset * scale, decimals)}${fit.error ? ` ± ${fixed(fit.error.offset * scale, decimals)}` : ''} ${unit}`,
    })
  }
  return {
    steps,
    source: fit.error
      ? 'Least squares; errors are standard errors.'
      : `${fit.points === 1 ? 'One pair leaves' : 'Two pairs leave'} no estimate of error: the line passes through them exactly, right or wrong. A third pair would tell.`,
  }
}

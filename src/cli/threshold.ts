import { humpsOf } from '../core/threshold/humps'
import { PRESENCE_PRICES, type Prices } from '../core/threshold/price'
import { search } from '../core/threshold/search'
import type { Threshold } from '../core/threshold/replay'
import { UNSURE } from '../core/trace/trace'
import { readMarks, readSamples } from '../core/trace/traceText'

interface Asked {
  on?: string
  word?: string
  missed?: number
  falseMinute?: number
  json?: boolean
}

/** The threshold that would have cost least over a trace against its marks, or what an unmarked one says. Throws in words. */
export function threshold(trace: string, marks: string | null, asked: Asked): string {
  const read = readSamples(trace)
  if (read.kind === 'none') throw new Error(`the trace: ${read.reason}`)
  const series = { s: Float64Array.from(read.s), value: Float64Array.from(read.value, (v) => v ?? NaN) }
  if (marks === null) return unmarked(series.value, asked.json)
  const marked = readMarks(marks)
  if (marked.kind === 'none') throw new Error(`the marks: ${marked.reason}`)
  const words = [...new Set(marked.marks.map((m) => m.word))].filter((w) => w !== UNSURE)
  const word = asked.word ?? words[0]
  if (word === undefined || !words.includes(word))
    throw new Error(`No mark says “${word ?? ''}”: --word takes ${words.join(', ') || 'a word of the marks'}.`)
  if (asked.on !== undefined && asked.on !== 'above' && asked.on !== 'below')
    throw new Error('--on takes above or below.')
  const prices: Prices = {
    ...PRESENCE_PRICES,
    missed: asked.missed ?? PRESENCE_PRICES.missed,
    falseMinute: asked.falseMinute ?? PRESENCE_PRICES.falseMinute,
  }
  const chain = { min: -1e30, max: 1e30, median: 1, averageS: 0, mountM: null, calibration: null }
  const of = (w: string) => marked.marks.filter((m) => m.word === w)
  const sides: Threshold['on'][] = asked.on ? [asked.on] : ['below', 'above']
  const answers = sides.flatMap(
    (on) => search({ series, chain, truth: of(word), unsure: of(UNSURE), prices, on }) ?? [],
  )
  const best = answers.reduce<(typeof answers)[number] | null>(
    (a, b) => (a === null || b.best.cost < a.best.cost ? b : a),
    null,
  )
  if (!best) throw new Error('Nothing in the trace is known.')
  const { proposal, cost } = best.best
  if (asked.json)
    return JSON.stringify(
      {
        word,
        prices,
        ...proposal,
        cost,
        missed: best.price.missed,
        wrong: best.price.wrong,
        falseMinutes: best.price.falseMinutes,
        frontier: best.frontier,
        tried: best.tried,
      },
      null,
      2,
    )
  return [
    `“${word}” ${proposal.on} ${proposal.cut}, band ${proposal.band}, median of ${proposal.median}, after ${proposal.holdOnS} s, gone after ${proposal.holdOffS} s`,
    `  cost ${cost.toFixed(1)}: ${best.price.missed.length} × missed at ${prices.missed}, ${best.price.falseMinutes.toFixed(1)} wrong minutes at ${prices.falseMinute}; ${best.tried} tried`,
    ...best.price.missed
      .slice(0, 20)
      .map((m) => `  missed at ${m.from.toFixed(1)} s for ${(m.to - m.from).toFixed(1)} s`),
    'what fewer misses would cost:',
    ...best.frontier
      .slice(0, 12)
      .map(
        (t) =>
          `  ${t.missed} missed, ${t.falseMinutes.toFixed(1)} wrong minutes: ${t.proposal.cut}, gone after ${t.proposal.holdOffS} s`,
      ),
  ].join('\n')
}

function unmarked(value: Float64Array, json?: boolean): string {
  const humps = humpsOf(value)
  if (humps === null) throw new Error('At least twenty known values are needed to tell anything without marks.')
  if (json) return JSON.stringify(humps, null, 2)
  return [
    humps.words,
    ...humps.humps.map(
      (h) => `  about ${h.mean.toPrecision(4)} ± ${h.sd.toPrecision(2)}, ${(h.share * 100).toFixed(0)} %`,
    ),
    ...humps.cuts.map((c) => `  cut at ${c.toPrecision(4)}`),
  ].join('\n')
}

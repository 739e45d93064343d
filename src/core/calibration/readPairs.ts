import Papa from 'papaparse'
import type { Pair } from './pair'

/**
 * Pairs out of CSV text with a header: `raw`, `reference` and, where stated, `uncertainty` (standard, of that reference
 * alone). Comma, semicolon or tab; a row that cannot be read refuses the file and says which.
 */
export function readPairs(text: string): { kind: 'pairs'; pairs: Pair[] } | { kind: 'none'; reason: string } {
  const { data, meta } = Papa.parse<Record<string, string>>(text.trim(), {
    header: true,
    skipEmptyLines: 'greedy',
    transformHeader: (h) => h.trim().toLowerCase(),
  })
  const has = (name: string) => meta.fields?.includes(name) === true
  if (!has('raw') || !has('reference'))
    return { kind: 'none', reason: 'the first line must name the columns raw and reference, and uncertainty if stated' }
  const pairs: Pair[] = []
  for (const [i, row] of data.entries()) {
    const cell = (name: string) => {
      const said = (row[name] ?? '').trim()
      return said === '' ? NaN : Number(said)
    }
    const [raw, reference] = [cell('raw'), cell('reference')]
    const u = has('uncertainty') && (row.uncertainty ?? '').trim() !== '' ? cell('uncertainty') : undefined
    if (![raw, reference, u ?? 0].every(Number.isFinite) || (u ?? 0) < 0)
      return { kind: 'none', reason: `line ${i + 2} holds something that is no number, or an uncertainty below zero` }
    pairs.push({ raw, reference, ...(u === undefined ? {} : { u }) })
  }
  if (pairs.length === 0) return { kind: 'none', reason: 'no pair is in it' }
  return pairs.length > 200 ? { kind: 'none', reason: 'at most 200 pairs' } : { kind: 'pairs', pairs }
}

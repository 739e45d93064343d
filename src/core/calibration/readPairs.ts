import Papa from 'papaparse'
import { senmlRecords } from '../senml/records'
import type { Pair } from './pair'

type ReadPairs = { kind: 'pairs'; pairs: Pair[] } | { kind: 'none'; reason: string }
const MOST = 200

/**
 * Pairs out of text: CSV with a header (`raw`, `reference` and, where stated, `uncertainty`, standard, of that reference
 * alone; comma, semicolon or tab), or a SenML pack (RFC 8428) whose records end in those names, one of each at a time.
 * What cannot be read refuses the file and says where.
 */
export function readPairs(text: string): ReadPairs {
  const read = /^\s*\[/.test(text) ? fromSenml(text) : fromCsv(text)
  if (read.kind === 'none') return read
  if (read.pairs.length === 0) return { kind: 'none', reason: 'no pair is in it' }
  return read.pairs.length > MOST ? { kind: 'none', reason: `at most ${MOST} pairs` } : read
}

function fromSenml(text: string): ReadPairs {
  const read = senmlRecords(text)
  if (read.kind === 'none') return read
  const at = new Map<number, Partial<Record<string, number>>>()
  for (const { name, t, v } of read.records) {
    const kind = /(raw|reference|uncertainty)$/.exec(name)?.[1]
    if (!kind) return { kind: 'none', reason: `“${name}” is neither raw nor reference nor uncertainty` }
    const pair = at.get(t) ?? {}
    if (kind in pair) return { kind: 'none', reason: `two of ${kind} at ${t} s` }
    at.set(t, { ...pair, [kind]: v })
  }
  const pairs: Pair[] = []
  for (const [t, { raw, reference, uncertainty: u }] of at) {
    if (raw === undefined || reference === undefined)
      return { kind: 'none', reason: `at ${t} s ${raw === undefined ? 'raw' : 'reference'} is missing` }
    if (u !== undefined && u < 0) return { kind: 'none', reason: `at ${t} s an uncertainty below zero` }
    pairs.push({ raw, reference, ...(u === undefined ? {} : { u }) })
  }
  return { kind: 'pairs', pairs }
}

function fromCsv(text: string): ReadPairs {
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
  return { kind: 'pairs', pairs }
}

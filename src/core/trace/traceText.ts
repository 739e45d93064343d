import Papa from 'papaparse'
import { senmlRecords } from '../senml/records'
import { type Mark, markSchema, MOST_SAMPLES, type Trace } from './trace'

type Samples = Pick<Trace, 's' | 'value'>
export type ReadSamples = ({ kind: 'samples'; at: string | null } & Samples) | { kind: 'none'; reason: string }

const none = (reason: string): { kind: 'none'; reason: string } => ({ kind: 'none', reason })

/**
 * Samples out of text: a SenML pack (RFC 8428, JSON), or CSV with a header whose first column is `s`, seconds, or `time`,
 * ISO 8601, and whose second is the value; an empty value is unknown. Refused as a whole, with the line.
 */
export function readSamples(text: string): ReadSamples {
  const read = /^\s*\[/.test(text) ? fromSenml(text) : fromCsv(text)
  if (read.kind === 'none') return read
  if (read.s.length < 2) return none('at least two samples are needed')
  if (read.s.length > MOST_SAMPLES) return none('at most a million samples')
  if (read.s.some((v, i) => i > 0 && v < (read.s[i - 1] ?? v))) return none('the times do not rise')
  return read
}

function fromCsv(text: string): ReadSamples {
  const { data } = Papa.parse<string[]>(text.trim(), { skipEmptyLines: 'greedy' })
  const [head, ...rows] = data
  const first = head?.[0]?.trim().toLowerCase()
  if ((first !== 's' && first !== 'time') || (head?.length ?? 0) < 2)
    return none('the first line must name the columns: s or time, then the value')
  const [s, value]: [number[], (number | null)[]] = [[], []]
  for (const [i, row] of rows.entries()) {
    const at = momentOf(row[0], first)
    const v = valueOf(row[1])
    if (at === null) return none(`line ${i + 2} begins with something that is no time`)
    if (v === undefined) return none(`line ${i + 2} holds something that is no number`)
    s.push(at)
    value.push(v)
  }
  const zero = s[0] ?? 0
  const at = first === 'time' && s.length > 0 ? new Date(zero * 1000).toISOString() : null
  return { kind: 'samples', at, s: first === 's' && zero >= 0 ? s : s.map((v) => v - zero), value }
}

/** Seconds of the first cell; null where it is none. */
function momentOf(cell: string | undefined, column: 's' | 'time'): number | null {
  const said = cell?.trim() ?? ''
  const at = column === 's' ? Number(said === '' ? NaN : said) : Date.parse(said) / 1000
  return Number.isFinite(at) ? at : null
}

/** Null for an unknown value, undefined for something that is none. */
function valueOf(cell: string | undefined): number | null | undefined {
  const said = cell?.trim() ?? ''
  if (said === '' || said === 'null') return null
  return Number.isFinite(Number(said)) ? Number(said) : undefined
}

function fromSenml(text: string): ReadSamples {
  const read = senmlRecords(text)
  if (read.kind === 'none') return read
  const names = new Set(read.records.map((r) => r.name))
  if (names.size > 1) return none(`it holds ${names.size} signals: ${[...names].join(', ')}; a trace is of one`)
  const zero = read.records[0]?.t ?? 0
  // Times below 2^28 are relative (RFC 8428, 4.5.3).
  const at = zero >= 2 ** 28 ? new Date(zero * 1000).toISOString() : null
  return { kind: 'samples', at, s: read.records.map((r) => r.t - zero), value: read.records.map((r) => r.v) }
}

const number = (v: number): string => Number(v.toPrecision(12)).toString()

/** A trace as CSV: seconds from its first sample, value; empty where nothing was known. */
export const samplesCsv = ({ s, value }: Samples, name: string): string =>
  `s,${name}\n${s.map((at, i) => `${number(at)},${value[i] == null ? '' : number(value[i])}`).join('\n')}\n`

/** A trace as a SenML pack. Moments of which nothing was known have no record. */
export function samplesSenml({ s, value, at, unit }: Trace, name: string): string {
  const units: Record<string, string> = { '°C': 'Cel', '%': '%RH' }
  const records = s.flatMap((t, i) => (value[i] == null ? [] : [{ t: Number(t.toFixed(6)), v: value[i] }]))
  const [first, ...others] = records
  const base = { bn: name, bt: Date.parse(at) / 1000, ...(unit ? { bu: units[unit] ?? unit } : {}) }
  return JSON.stringify(first ? [{ ...base, ...first }, ...others] : [base])
}

/** Marks out of CSV with columns from, to, s, and word. */
export function readMarks(text: string): { kind: 'marks'; marks: Mark[] } | { kind: 'none'; reason: string } {
  const { data, meta } = Papa.parse<Record<string, string>>(text.trim(), {
    header: true,
    skipEmptyLines: 'greedy',
    transformHeader: (h) => h.trim().toLowerCase(),
  })
  if (!['from', 'to', 'word'].every((c) => meta.fields?.includes(c)))
    return none('the first line must name the columns from, to and word')
  const marks: Mark[] = []
  for (const [i, row] of data.entries()) {
    const parsed = markSchema.safeParse({
      from: Number(row.from?.trim() || NaN),
      to: Number(row.to?.trim() || NaN),
      word: row.word,
    })
    if (!parsed.success) return none(`line ${i + 2}: ${parsed.error.issues[0]?.message ?? 'not a mark'}`)
    marks.push(parsed.data)
  }
  return { kind: 'marks', marks }
}

export const marksCsv = (marks: readonly Mark[]): string =>
  Papa.unparse(
    marks.map(({ from, to, word }) => ({ from, to, word })),
    { newline: '\n' },
  ) + '\n'

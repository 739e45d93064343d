import Papa from 'papaparse'
import type { Line } from './line'

/** Lines as CSV by RFC 4180, the first row its head. A text that a sheet would take for a formula is quoted as one. */
export function csvOf(lines: readonly Line[]): string {
  const rows = lines.map(({ thing, name, topic, check, verdict, words, ms }) => ({
    thing,
    name,
    topic,
    check,
    verdict,
    words,
    ms: ms ?? '',
  }))
  return Papa.unparse(rows, { escapeFormulae: true })
}

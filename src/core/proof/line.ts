/** What is looked at in a line of the report. */
export const CHECKS = [
  'announced',
  'one identity',
  'seen',
  'type',
  'words',
  'range',
  'decimals',
  'scale',
  'place',
  'retained',
  'cadence',
  'null',
  'command',
  'wrong command',
  'late command',
  'repeated id',
  'gone in time',
  'same after restart',
  'leftover',
  'undeclared',
] as const
export type Check = (typeof CHECKS)[number]
export type LineVerdict = 'passed' | 'failed' | 'not tried'

/** One line: what, where, what came of it, in a sentence. `ms`: time from a command to its answer. */
export interface Line {
  thing: string
  topic: string
  name: string
  check: Check
  verdict: LineVerdict
  words: string
  ms?: number
}

/** Same line of another run. */
export const lineKey = ({ topic, check }: Pick<Line, 'topic' | 'check'>): string => `${topic} ${check}`

/** Lines whose verdict is not that of the run before; lines that were not tried in either say nothing. */
export function changedLines(before: readonly Line[], now: readonly Line[]): { line: Line; was: LineVerdict | null }[] {
  const known = new Map(before.map((l) => [lineKey(l), l.verdict]))
  return now.flatMap((line) => {
    const was = known.get(lineKey(line)) ?? null
    return was === line.verdict || [was, line.verdict].includes('not tried') ? [] : [{ line, was }]
  })
}

/** How many lines came out how. */
export function counted(lines: readonly Line[]): Record<LineVerdict, number> {
  const of = (verdict: LineVerdict) => lines.filter((l) => l.verdict === verdict).length
  return { passed: of('passed'), failed: of('failed'), 'not tried': of('not tried') }
}

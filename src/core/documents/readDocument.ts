import { closest, distance } from 'fastest-levenshtein'
import { findNodeAtLocation, type Node, type ParseError, parseTree, printParseErrorCode } from 'jsonc-parser'
import { z } from 'zod'

/** One thing wrong with a file. Line and column count from 1. */
export interface Problem { line: number; column: number; path: string; found: string; expected: string; nearest: string | null }

export type ReadResult<T> = { ok: true; value: T } | { ok: false; problems: Problem[] }

/** Reads JSON text against a schema. Nothing is taken from a text in which anything is wrong. */
export function readDocument<T>(text: string, schema: z.ZodType<T>): ReadResult<T> {
  const errors: ParseError[] = []
  const tree = parseTree(text, errors, { allowTrailingComma: false, disallowComments: true })
  const at = locator(text)
  const [first] = errors
  if (first || !tree) {
    const offset = first?.offset ?? 0
    return { ok: false, problems: [{ ...at(offset), path: '', found: foundText(text, offset), expected: first ? SYNTAX[printParseErrorCode(first.error)] ?? 'JSON' : 'JSON', nearest: null }] }
  }
  const parsed = schema.safeParse(JSON.parse(text))
  if (parsed.success) return { ok: true, value: parsed.data }
  return { ok: false, problems: parsed.error.issues.flatMap((issue) => problemsOf(issue, parsed.error.issues, tree, text, at)) }
}

const SYNTAX: Record<string, string> = {
  InvalidSymbol: 'true, false, null, a number or a text in double quotes', InvalidNumberFormat: 'a number', PropertyNameExpected: 'a name in double quotes',
  ValueExpected: 'a value', ColonExpected: '“:” after the name', CommaExpected: '“,” between two entries', CloseBraceExpected: '“}”', CloseBracketExpected: '“]”',
  EndOfFileExpected: 'nothing more after the end', InvalidCommentToken: 'no comments: JSON has none', UnexpectedEndOfString: 'a closing double quote',
}

type Issue = z.core.$ZodIssue

function problemsOf(issue: Issue, all: readonly Issue[], tree: Node, text: string, at: (offset: number) => { line: number; column: number }): Problem[] {
  const keys = issue.path.filter((k): k is string | number => typeof k !== 'symbol')
  const path = keys.join(' › ')
  const node = nearestNode(tree, keys)
  if (issue.code === 'unrecognized_keys') {
    const holder = findNodeAtLocation(tree, keys) ?? tree
    const missing = all.flatMap((i) => (i.path.length === issue.path.length + 1 && issue.path.every((k, n) => i.path[n] === k) ? [String(i.path.at(-1))] : []))
    return issue.keys.map((key) => {
      const name = holder.children?.find((p) => p.children?.[0]?.value === key)?.children?.[0]
      return { ...at(name?.offset ?? holder.offset), path, found: `the name “${key}”`, expected: 'a name this format knows', nearest: nearestWord(key, missing) }
    })
  }
  const found = node.exact ? foundText(text, node.node.offset, node.node.length) : 'nothing'
  if (issue.code === 'invalid_value') {
    const words = issue.values.map(String)
    const value: unknown = node.exact ? node.node.value : null
    return [{ ...at(node.node.offset), path, found, expected: words.length === 1 ? words[0] ?? '' : `one of ${words.join(', ')}`, nearest: typeof value === 'string' ? nearestWord(value, words) : null }]
  }
  return [{ ...at(node.node.offset), path, found, expected: expectation(issue), nearest: null }]
}

function expectation(issue: Issue): string {
  if (issue.code === 'invalid_type') return issue.expected === 'object' ? 'an object' : issue.expected === 'array' ? 'a list' : `a ${issue.expected === 'record' ? 'table of names' : issue.expected}`
  if (issue.code === 'too_big') return `at most ${issue.maximum}${issue.origin === 'string' ? ' characters' : issue.origin === 'array' ? ' entries' : ''}`
  if (issue.code === 'too_small') return `at least ${issue.minimum}${issue.origin === 'string' ? ' characters' : issue.origin === 'array' ? ' entries' : ''}`
  return issue.message.replace(/^Invalid input: expected /, '')
}

/** Line and column of a path in a text that has been read, or of the innermost thing around it that exists. */
export function placeIn(text: string): (path: (string | number)[]) => { line: number; column: number } {
  const tree = parseTree(text)
  const at = locator(text)
  return (path) => at(tree ? nearestNode(tree, path).node.offset : 0)
}

/** The place a path leads to, or the innermost thing around it that exists. */
function nearestNode(tree: Node, path: (string | number)[]): { node: Node; exact: boolean } {
  for (let n = path.length; n >= 0; n--) {
    const node = findNodeAtLocation(tree, path.slice(0, n))
    if (node) return { node, exact: n === path.length }
  }
  return { node: tree, exact: path.length === 0 }
}

/** The word of a list that was probably meant, or null when none is close. */
export function nearestWord(word: string, words: readonly string[]): string | null {
  if (words.length === 0) return null
  const best = closest(word, words)
  return distance(word, best) <= Math.max(2, Math.ceil(best.length / 3)) ? best : null
}

function foundText(text: string, offset: number, length = 24): string {
  const piece = text.slice(offset, offset + Math.min(length, 40)).split('\n')[0]?.trim() ?? ''
  return piece === '' ? (offset >= text.length ? 'the end of the file' : 'the end of the line') : piece
}

function locator(text: string): (offset: number) => { line: number; column: number } {
  return (offset) => {
    const before = text.slice(0, offset)
    const line = before.split('\n').length
    return { line, column: offset - before.lastIndexOf('\n') }
  }
}

/** `slip-tank.json:12:9 parts › ranger › kind: found “rangr”, expected …; nearest: …`. */
export function problemWords(file: string, p: Problem): string {
  return `${file}:${p.line}:${p.column}${p.path ? ` ${p.path}` : ''}: found ${p.found}, expected ${p.expected}${p.nearest === null ? '' : `; did you mean “${p.nearest}”?`}`
}

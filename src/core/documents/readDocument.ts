import { closest, distance } from 'fastest-levenshtein'
import { findNodeAtLocation, type Node, type ParseError, parseTree, printParseErrorCode } from 'jsonc-parser'
import { z } from 'zod'

/** One thing wrong with a file. Line and column count from 1. */
export interface Problem {
  line: number
  column: number
  path: string
  found: string
  expected: string
  nearest: string | null
}

/** `said`: what was changed while it was read, in words. */
export type ReadResult<T> = { ok: true; value: T; said?: string[] } | { ok: false; problems: Problem[] }

/**
 * Reads JSON text against a schema; `renew` brings what an earlier release wrote up to date first. Nothing is taken
 * from a text in which anything is wrong.
 */
export function readDocument<T>(
  text: string,
  schema: z.ZodType<T>,
  renew: (json: unknown) => unknown = (json) => json,
): ReadResult<T> {
  const at = locator(text)
  const early = tooDeep(text) ?? notText(text)
  if (early)
    return {
      ok: false,
      problems: [{ ...at(early.offset), path: '', found: early.found, expected: early.expected, nearest: null }],
    }
  const errors: ParseError[] = []
  const tree = parseTree(text, errors, { allowTrailingComma: false, disallowComments: true })
  const [first] = errors
  if (first || !tree) {
    const offset = first?.offset ?? 0
    return {
      ok: false,
      problems: [
        {
          ...at(offset),
          path: '',
          found: foundText(text, offset),
          expected: first ? (SYNTAX[printParseErrorCode(first.error)] ?? 'JSON') : 'JSON',
          nearest: null,
        },
      ],
    }
  }
  const twice = doubledNames(tree)
  if (twice.length > 0)
    return {
      ok: false,
      problems: twice.map(({ node, path }) => ({
        ...at(node.offset),
        path: path.join(' › '),
        found: `the name “${String(node.value)}” a second time`,
        expected: 'each name once',
        nearest: null,
      })),
    }
  const parsed = schema.safeParse(renew(JSON.parse(text)))
  if (parsed.success) return { ok: true, value: parsed.data }
  return {
    ok: false,
    problems: parsed.error.issues.flatMap((issue) => problemsOf(issue, parsed.error.issues, tree, text, at)),
  }
}

const SYNTAX: Record<string, string> = {
  InvalidSymbol: 'true, false, null, a number or a text in double quotes',
  InvalidNumberFormat: 'a number',
  PropertyNameExpected: 'a name in double quotes',
  ValueExpected: 'a value',
  ColonExpected: '“:” after the name',
  CommaExpected: '“,” between two entries',
  CloseBraceExpected: '“}”',
  CloseBracketExpected: '“]”',
  EndOfFileExpected: 'nothing more after the end',
  InvalidCommentToken: 'no comments: JSON has none',
  UnexpectedEndOfString: 'a closing double quote',
}

/** Documents of ours are four or five levels deep; a reader that follows a thousand runs out of room. */
const DEEPEST = 64

/** The place where brackets are nested too deep, found without following them. */
function tooDeep(text: string): { offset: number; found: string; expected: string } | null {
  let depth = 0
  let inText = false
  for (let i = 0; i < text.length; i++) {
    const c = text[i]
    if (inText) {
      if (c === '\\') i += 1
      else if (c === '"') inText = false
    } else if (c === '"') inText = true
    else if (c === '{' || c === '[') {
      depth += 1
      if (depth > DEEPEST)
        return {
          offset: i,
          found: `brackets more than ${DEEPEST} deep`,
          expected: 'a document as it is exported: a few levels deep',
        }
    } else if (c === '}' || c === ']') depth -= 1
  }
  return null
}

/**
 * Escapes of the zero character and of half a character pair; behind an even number of backslashes they are plain
 * letters.
 */
const UNKEEPABLE =
  /(?<!\\)(?:\\\\)*(\\u(?:0000|d[89ab][0-9a-f]{2}(?!\\ud[c-f])))|(?<!\\)(?:\\\\)*(?<!\\ud[89ab][0-9a-f]{2})(\\ud[c-f][0-9a-f]{2})/i

/** A mark some editors put before the text, which JSON does not know. */
function notText(text: string): { offset: number; found: string; expected: string } | null {
  if (text.charCodeAt(0) === 0xfeff)
    return {
      offset: 0,
      found: 'a byte-order mark before the text',
      expected: 'plain UTF-8 without one: save it so in the editor',
    }
  const at = text.indexOf('\u0000')
  if (at >= 0)
    return {
      offset: at,
      found: 'a zero byte',
      expected: 'text; this looks like UTF-16 or a binary file: save it as UTF-8',
    }
  const escape = UNKEEPABLE.exec(text)
  return escape
    ? {
        offset: escape.index,
        found: `the escape ${escape[1] ?? escape[2] ?? ''}`,
        expected: 'a character a text can keep: not zero, and no half of a pair',
      }
    : null
}

/** Names that stand twice in one object: a reader takes the last and forgets the first. */
function doubledNames(tree: Node): { node: Node; path: (string | number)[] }[] {
  const out: { node: Node; path: (string | number)[] }[] = []
  const walk = (node: Node, path: (string | number)[]) => {
    if (node.type === 'array') node.children?.forEach((child, i) => walk(child, [...path, i]))
    if (node.type !== 'object') return
    const seen = new Set<string>()
    for (const property of node.children ?? []) {
      const [key, value] = property.children ?? []
      const name = String(key?.value)
      if (key && seen.has(name)) out.push({ node: key, path })
      seen.add(name)
      if (value) walk(value, [...path, name])
    }
  }
  walk(tree, [])
  return out
}

type Issue = z.core.$ZodIssue

function problemsOf(
  issue: Issue,
  all: readonly Issue[],
  tree: Node,
  text: string,
  at: (offset: number) => { line: number; column: number },
): Problem[] {
  const keys = issue.path.filter((k): k is string | number => typeof k !== 'symbol')
  const path = keys.join(' › ')
  const node = nearestNode(tree, keys)
  if (issue.code === 'unrecognized_keys') {
    const holder = findNodeAtLocation(tree, keys) ?? tree
    const missing = all.flatMap((i) =>
      i.path.length === issue.path.length + 1 && issue.path.every((k, n) => i.path[n] === k)
        ? [String(i.path.at(-1))]
        : [],
    )
    return issue.keys.map((key) => {
      const name = holder.children?.find((p) => p.children?.[0]?.value === key)?.children?.[0]
      return {
        ...at(name?.offset ?? holder.offset),
        path,
        found: `the name “${key}”`,
        expected: 'a name this format knows',
        nearest: nearestWord(key, missing),
      }
    })
  }
  const found = node.exact ? foundText(text, node.node.offset, node.node.length) : 'nothing'
  if (issue.code === 'invalid_value') {
    const words = issue.values.map(String)
    const value: unknown = node.exact ? node.node.value : null
    return [
      {
        ...at(node.node.offset),
        path,
        found,
        expected: words.length === 1 ? (words[0] ?? '') : `one of ${words.join(', ')}`,
        nearest: typeof value === 'string' ? nearestWord(value, words) : null,
      },
    ]
  }
  return [{ ...at(node.node.offset), path, found, expected: expectation(issue), nearest: null }]
}

const COUNTED: Record<string, string | undefined> = { string: ' characters', array: ' entries' }

function expectation(issue: Issue): string {
  if (issue.code === 'invalid_type') {
    if (issue.expected === 'object') return 'an object'
    if (issue.expected === 'array') return 'a list'
    return `a ${issue.expected === 'record' ? 'table of names' : issue.expected}`
  }
  if (issue.code === 'too_big') return `at most ${issue.maximum}${COUNTED[issue.origin] ?? ''}`
  if (issue.code === 'too_small') return `at least ${issue.minimum}${COUNTED[issue.origin] ?? ''}`
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
  // The word itself is no hint: what is wrong with it is something else.
  const others = words.filter((w) => w !== word)
  if (others.length === 0) return null
  const best = closest(word, others)
  return distance(word, best) <= Math.max(2, Math.ceil(best.length / 3)) ? best : null
}

function foundText(text: string, offset: number, length = 24): string {
  const piece =
    text
      .slice(offset, offset + Math.min(length, 40))
      .split('\n')[0]
      ?.trim() ?? ''
  if (piece === '') {
    if (offset >= text.length) return 'the end of the file'
    return 'the end of the line'
  }
  return piece
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

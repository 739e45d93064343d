import { z } from 'zod'
import { canonicalJson } from '../hash/canonicalJson'

/** Depth to which designs are compared: `signals / id / field`. Below it a value is one thing. */
const DEPTH = 3

export const changeSchema = z.strictObject({
  path: z.array(z.string()).min(1).max(DEPTH),
  before: z.json().optional(),
  after: z.json().optional(),
})
/** One place of a design that differs. A missing `before` or `after` means the place did not exist. */
export type Change = z.infer<typeof changeSchema>

type Tree = { [key: string]: unknown }
const isTree = (v: unknown): v is Tree => typeof v === 'object' && v !== null && !Array.isArray(v)
const same = (a: unknown, b: unknown) =>
  a === b || (a !== undefined && b !== undefined && canonicalJson(a) === canonicalJson(b))

/** The places where `after` differs from `before`, in a fixed order. Applying them to `before` gives `after`. */
export function changesBetween(before: object, after: object): Change[] {
  const out: Change[] = []
  collect(before as Tree, after as Tree, [], out)
  return out
}

function collect(before: Tree, after: Tree, path: string[], out: Change[]): void {
  if (before === after) return
  for (const key of [...new Set([...Object.keys(before), ...Object.keys(after)])].sort()) {
    const b = before[key]
    const a = after[key]
    if (a === b) continue
    const here = [...path, key]
    // What can be looked into is: a difference deep in a large table is found without comparing the whole of it first.
    if (isTree(a) && isTree(b) && here.length < DEPTH) collect(b, a, here, out)
    else if (!same(a, b))
      out.push({
        path: here,
        ...(b === undefined ? {} : { before: b as Change['before'] }),
        ...(a === undefined ? {} : { after: a as Change['after'] }),
      })
  }
}

export function invertChanges(changes: readonly Change[]): Change[] {
  return changes.map(({ path, before, after }) => ({
    path,
    ...(after === undefined ? {} : { before: after }),
    ...(before === undefined ? {} : { after: before }),
  }))
}

export type PatchResult<T> = { ok: true; value: T } | { ok: false; path: string[] }

/**
 * Puts every `after` in place if every `before` is what stands there now; otherwise names the first place that is not.
 */
export function patch<T extends object>(target: T, changes: readonly Change[]): PatchResult<T> {
  let value = target as Tree
  for (const change of changes) {
    const next = put(value, change.path, change)
    if (!next) return { ok: false, path: change.path }
    value = next
  }
  return { ok: true, value: value as T }
}

function put(tree: Tree, path: readonly string[], change: Change): Tree | null {
  const [key, ...rest] = path
  if (key === undefined || key === '__proto__') return null
  const current = Object.hasOwn(tree, key) ? tree[key] : undefined
  if (rest.length > 0) {
    if (!isTree(current)) return null
    const inner = put(current, rest, change)
    return inner && { ...tree, [key]: inner }
  }
  if (!same(current, change.before)) return null
  if (change.after !== undefined) return { ...tree, [key]: change.after }
  const { [key]: _, ...without } = tree
  return without
}

/** True when the two lists touch a place in common, or one touches what the other's place lies inside. */
export function changesMeet(a: readonly Change[], b: readonly Change[]): boolean {
  return a.some((x) =>
    b.some((y) => {
      const n = Math.min(x.path.length, y.path.length)
      return x.path.slice(0, n).every((key, i) => key === y.path[i])
    }),
  )
}

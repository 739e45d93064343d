import type { Board } from '../catalog/board'
import { isKey } from '../catalog/drivers'
import type { PartKind } from '../catalog/part'
import { chooseLadder, judgeLadder, ladderRequirement } from '../wiring/ladder'

interface Bounds {
  lowShare: number
  highShare: number
}
/** A key this close below the open line as it is reckoned was heard more truly than that: share of full scale. */
const CLEAR = 0.04
/** Keys closer than this would be taken for each other, share of full scale. */
const APART = 0.02
/** Whether a key that was heard at `other` cannot be told from one at `share`; below zero it has not been heard. */
export const heardTogether = (other: number, share: number): boolean => other >= 0 && Math.abs(other - share) < APART

const rounded = (share: number): number => Math.round(share * 1e4) / 1e4

/** Share of full scale while no key is held, at least. */
function openShare(board: Board, keys: number): number {
  const wish = ladderRequirement(board, keys)
  const full = 2 ** wish.bits - 1
  return (judgeLadder([1e12], wish).keys[0]?.low ?? full) / full
}

/**
 * Between neighbours of keys that were heard the bound lies in the middle, and between the highest and the open line.
 * @param learnt share of full scale each key was heard at, each another; `own` is one of them
 */
export function learntBounds(board: Board, keys: number, learnt: readonly number[], own: number): Bounds {
  const sorted = [...learnt].sort((a, b) => a - b)
  const at = sorted.indexOf(own)
  const open = openShare(board, keys)
  const [below, above] = [sorted[at - 1], sorted[at + 1] ?? (open - own > CLEAR ? open : 1)]
  return {
    lowShare: below === undefined ? -1 : rounded((below + own) / 2),
    highShare: rounded((own + above) / 2),
  }
}

/**
 * Between neighbours of a resistor ladder the bound lies in the middle of the gap. Null where the part is no ladder.
 */
export function ladderShare(board: Board, kind: PartKind, n: number): Bounds | null {
  const terminal = kind.terminals.find((t) => t.role === 'line')
  const keys = kind.channels.filter((c) => isKey(c.driver)).length
  if (terminal?.role !== 'line' || terminal.needs !== 'analog' || keys === 0) return null
  const wish = ladderRequirement(board, keys)
  const full = 2 ** wish.bits - 1
  const ladder = chooseLadder(wish)
  const spans = [...ladder.keys.map((k, i) => ({ ...k, i })), { low: full * 2, high: full * 2, i: -1 }].sort(
    (a, b) => a.low - b.low,
  )
  const at = spans.findIndex((s) => s.i === n)
  const own = spans[at]
  if (!own) return null
  const open = openShare(board, keys) * full
  const above = at + 2 < spans.length ? (spans[at + 1]?.low ?? full) : open
  const below = spans[at - 1]
  const share = (code: number) => rounded(code / full)
  return { lowShare: below ? share((below.high + own.low) / 2) : -1, highShare: share((own.high + above) / 2) }
}

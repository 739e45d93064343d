import type { Board } from '../catalog/board'
import { isKey } from '../catalog/drivers'
import type { PartKind } from '../catalog/part'
import { chooseLadder, judgeLadder, ladderRequirement } from '../wiring/ladder'

/**
 * Between neighbours of a resistor ladder the bound lies in the middle of the gap. Null where the part is no ladder.
 */
export function ladderShare(board: Board, kind: PartKind, n: number): { lowShare: number; highShare: number } | null {
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
  const open = judgeLadder([1e12], wish).keys[0]?.low ?? full
  const above = at + 2 < spans.length ? (spans[at + 1]?.low ?? full) : open
  const below = spans[at - 1]
  const share = (code: number) => Math.round((code / full) * 1e4) / 1e4
  return { lowShare: below ? share((below.high + own.low) / 2) : -1, highShare: share((own.high + above) / 2) }
}

import { isKey } from './drivers'
import { type Channel, linesOf, type PartKind } from './part'

/** A key's place among the keys of its part. */
export const keyNumber = (kind: PartKind, channel: Channel): number =>
  kind.channels.filter((c) => isKey(c.driver)).findIndex((c) => c.id === channel.id)

/** Row and column of a key: keys are numbered along the rows. Null where the part is no matrix. */
export function matrixKey(kind: PartKind, channel: Channel): { row: string; column: string } | null {
  const lines = linesOf(kind)
  const [rows, columns] = [lines.filter((t) => t.board === 'drives'), lines.filter((t) => t.board === 'reads')]
  const n = keyNumber(kind, channel)
  const row = rows[Math.floor(n / columns.length)]
  const column = columns[n % columns.length]
  return row && column ? { row: row.id, column: column.id } : null
}

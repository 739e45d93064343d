/**
 * Id of a place from its name, the same wherever it is made: `placeIdFrom('Glaze store')` is `glazestore`. Null for no
 * name. A name of no Latin letters gets one from its code points.
 */
export function placeIdFrom(name: string): string | null {
  const word = name.trim()
  if (word === '') return null
  const plain = word
    .normalize('NFKD')
    .replace(/[\u0300-\u036f]/g, '')
    .toLowerCase()
    .replace(/[^a-z0-9]/g, '')
  if (plain.length >= 2) return plain.slice(0, 24)
  const points = [...word].map((c) => (c.codePointAt(0) ?? 0).toString(36)).join('')
  return `p${points}`.slice(0, 24)
}

import type { Catalog } from './catalog'
import type { PartKind } from './part'

/** How well a word is met: as a whole word, as the beginning of one, or somewhere inside. */
function met(text: string, word: string): number {
  const at = ` ${text.toLowerCase().replace(/[^\p{L}\p{N}]+/gu, ' ')} `
  if (at.includes(` ${word} `)) return 1
  if (at.includes(` ${word}`)) return 0.6
  if (at.includes(word)) return 0.1
  return 0
}

/**
 * Part kinds a wish in plain words may mean, best first: every word must occur; in the name counts most, then in what
 * people search by.
 */
export function searchParts(catalog: Catalog, wish: string): PartKind[] {
  const words = wish
    .toLowerCase()
    .split(/[\s,]+/)
    .filter(Boolean)
  const score = (kind: PartKind): number => {
    let sum = 0
    for (const word of words) {
      const places: [string, number][] = [
        [kind.name, 8],
        [kind.finds.join(' '), 6],
        [kind.channels.map((c) => `${c.name} ${c.quantity}`).join(' '), 4],
        [kind.summary, 2],
        [kind.group, 1],
      ]
      const hit = Math.max(...places.map(([text, weight]) => met(text, word) * weight))
      if (hit === 0) return 0
      sum += hit
    }
    return sum || 1
  }
  return Object.values(catalog.parts)
    .map((kind) => ({ kind, s: score(kind) }))
    .filter(({ s }) => s > 0)
    .sort((a, b) => b.s - a.s || a.kind.name.localeCompare(b.kind.name))
    .map(({ kind }) => kind)
}

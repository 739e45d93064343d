import type { Catalog } from './catalog'
import type { PartKind } from './part'

/** Words of a text as they are compared: small, without hyphens and without the ending of a plural. */
export const wordsOf = (text: string): string[] =>
  text
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean)
    .map(singular)

function singular(word: string): string {
  if (word.length > 4 && word.endsWith('ies')) return `${word.slice(0, -3)}y`
  if (word.length > 4 && /(ch|sh|ss|x)es$/.test(word)) return word.slice(0, -2)
  return word.length > 3 && word.endsWith('s') && !/(ss|us|is)$/.test(word) ? word.slice(0, -1) : word
}

/** How well a word is met: as a whole word, or as the beginning of one. Inside a word nothing is found. */
function met(text: string, word: string): number {
  const words = wordsOf(text)
  if (words.includes(word)) return 1
  return words.some((w) => w.startsWith(word)) ? 0.6 : 0
}

/**
 * Part kinds a wish in plain words may mean, best first: every word must occur; in the name counts most, then in what
 * people search by.
 */
export function searchParts(catalog: Catalog, wish: string): PartKind[] {
  const words = wordsOf(wish)
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

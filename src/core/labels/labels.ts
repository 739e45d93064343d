import { type Design, inOrder } from '../model/design'

export interface Label {
  key: string
  /** The node itself, or an end of a cable. */
  kind: 'node' | 'cable'
  /** The first in large print. */
  lines: readonly string[]
  /** Path of the page a code on it leads to; null for one without. */
  path: string | null
}

/** Widths of tape, mm, and what fits on a line of it in the print of each, characters. */
export const TAPES = { '12': { mm: 12, letters: 24 }, '9': { mm: 9, letters: 20 } } as const
export type Tape = keyof typeof TAPES

/** A cable of this length leaves the box, m. */
const LEAVES_M = 0.5

/** Labels of a node: its own, then both ends of every cable that leaves the box, by part. */
export function labelsOf(design: Design): Label[] {
  const cables = inOrder(design.parts).flatMap(({ id, value: part }): Label[] => {
    if (part.cableM < LEAVES_M) return []
    const tags = Object.values(design.signals)
      .filter((s) => s.partId === id && s.of === null)
      .map((s) => s.tag)
      .sort()
    const end = (where: string, to: string): Label => ({
      key: `${id}:${where}`,
      kind: 'cable',
      lines: [[part.label, ...tags].join(' '), `${where} → ${to}`],
      path: null,
    })
    return [end(design.slug, part.label), end(part.label, design.slug)]
  })
  return [{ key: 'node', kind: 'node', lines: [design.name, design.slug], path: `/node/${design.slug}` }, ...cables]
}

import type { Design } from '../model/design'

type Names<T extends readonly string[]> = { -readonly [K in keyof T]: string }

/** `R1`, `R2`, `Q1` …: for each letter asked for the lowest name that is not in use. */
export function freeNames<const T extends readonly string[]>(design: Design, ...letters: T): Names<T> {
  const used = new Set(Object.values(design.added).flatMap((c): string[] => [...c.names]))
  return letters.map((letter) => {
    let n = 1
    while (used.has(`${letter}${n}`)) n += 1
    used.add(`${letter}${n}`)
    return `${letter}${n}`
  }) as Names<T>
}

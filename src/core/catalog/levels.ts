import { z } from 'zod'

const word = z.string().trim().min(1, 'a word of at least one character').max(24, 'a word of at most 24 characters')
const index = z.int().min(0).max(4)

/**
 * How a state is made of a reading: words from its lowest values to its highest, and between each two the value that
 * parts them. Values in the reading's own unit.
 */
export const levelsSchema = z
  .strictObject({
    words: z.array(word).min(2, 'at least two words').max(5, 'at most five words').describe('from low to high'),
    cuts: z.array(z.number().min(-1e9).max(1e9)).min(1).max(4).describe('values between the words, rising'),
    band: z
      .number()
      .min(0)
      .max(1e9)
      .describe('a word is left only half of this beyond its cut, so that nothing flutters there'),
    holdS: z
      .array(z.number().min(0).max(86_400))
      .describe('each word counts only after the reading lay there so long, s'),
    unknown: index.nullable().describe('word an unknown reading counts as; null: the state is unknown too'),
    on: z.int().min(0).max(1).describe('of two words the one that is told as true'),
    shift: z
      .number()
      .positive()
      .max(1e9)
      .optional()
      .describe('sensitivity: a command may add up to this, either way, to the cuts; left out: none may'),
  })
  .refine((l) => l.cuts.length === l.words.length - 1, 'one cut between each two words')
  .refine((l) => l.cuts.every((c, i) => i === 0 || c > (l.cuts[i - 1] ?? c)), 'cuts that rise')
  .refine((l) => l.holdS.length === l.words.length, 'a time to hold for each word')
  .refine((l) => new Set(l.words).size === l.words.length, 'each word once')
  .refine((l) => l.unknown === null || l.unknown < l.words.length, 'unknown counts as one of the words, or as none')

export type Levels = z.infer<typeof levelsSchema>

/** Two words are told as true and false; more than two by themselves. */
export const isTwoWay = ({ words }: Levels): boolean => words.length === 2

/** `shorted | 0.5 | closed | 2.5 | open` */
export const levelsWords = ({ words, cuts }: Levels, shown: (cut: number) => string = String): string =>
  words.map((w, i) => (i === 0 ? w : `| ${shown(cuts[i - 1] ?? 0)} | ${w}`)).join(' ')

/** One more word above the others, its cut half-way to the end of the part's range. */
export function withMoreWord(levels: Levels, range: { min: number; max: number }): Levels {
  const top = levels.cuts.at(-1) ?? 0
  const step = Math.max((range.max - top) / 2, (range.max - range.min) / 100)
  return {
    ...levels,
    words: [...levels.words, `word ${levels.words.length + 1}`],
    cuts: [...levels.cuts, Number((top + step).toPrecision(3))],
    holdS: [...levels.holdS, 0],
  }
}

/** Without word `i`: its values go to the word below it, those of the lowest to the one above. */
export function withoutWord(levels: Levels, i: number): Levels {
  const others = <T>(list: readonly T[], at: number) => list.filter((_, j) => j !== at)
  const { unknown } = levels
  const moved = unknown === null || unknown === i ? null : unknown - Number(unknown > i)
  return {
    ...levels,
    words: others(levels.words, i),
    cuts: others(levels.cuts, Math.max(0, i - 1)),
    holdS: others(levels.holdS, i),
    unknown: moved,
  }
}

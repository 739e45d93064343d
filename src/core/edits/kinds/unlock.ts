import { z } from 'zod'
import { designEdit } from '../designEdit'
import { refuse, without } from '../step'

const schema = z.strictObject({ kind: z.literal('unlock'), line: z.string().max(100) })

/** A line may be planned anew. */
export const unlock = designEdit({
  schema,
  touches: ['locks'],
  apply: (design, { line }) =>
    Object.hasOwn(design.locks, line)
      ? { ...design, locks: without(design.locks, line) }
      : refuse('this line is not locked', 'a locked line'),
  words: () => 'unlock a line',
})

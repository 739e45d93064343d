import { z } from 'zod'
import { designEdit } from '../designEdit'

const schema = z.strictObject({
  kind: z.literal('sleep'),
  everyS: z.number().min(5, 'at least 5 s').max(604_800, 'at most a week').nullable(),
  listenS: z.number().min(0.5).max(60).optional(),
})

/** Sleeps between readings, or never. */
export const sleep = designEdit({
  schema,
  touches: ['sleep'],
  apply: (design, { everyS, listenS }) => ({
    ...design,
    sleep: everyS === null ? null : { everyS, listenS: listenS ?? design.sleep?.listenS ?? 2 },
  }),
  words: (edit) => (edit.everyS === null ? 'never sleep' : `wake every ${edit.everyS} s`),
})

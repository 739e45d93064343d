import { z } from 'zod'
import { designSchema } from '../../model/design'
import { designEdit } from '../designEdit'
import { refuse, without } from '../step'

const schema = z.strictObject({
  kind: z.literal('set-measured'),
  input: z.string().min(1).max(40),
  measured: designSchema.shape.measured.unwrap().valueType.nullable(),
})

/** What a meter showed on this node, in place of an estimate; null takes the estimate again. */
export const setMeasured = designEdit({
  schema,
  touches: ['measured'],
  apply: (design, { input, measured }) => {
    if (measured === null)
      return input in design.measured
        ? { ...design, measured: without(design.measured, input) }
        : refuse('nothing was measured there', 'a measured input')
    return { ...design, measured: { ...design.measured, [input]: measured } }
  },
  words: (edit) => (edit.measured === null ? `estimate ${edit.input} again` : `measured ${edit.input}`),
})

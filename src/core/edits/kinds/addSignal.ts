import { z } from 'zod'
import { idSchema } from '../../model/design'
import { designEdit } from '../designEdit'
import { labelOf } from '../names'
import { addSignalTo, newSignal } from '../newSignal'
import { withPart } from '../step'

const schema = z.strictObject({ kind: z.literal('add-signal'), partId: idSchema, signal: newSignal })

/** One more channel of a part made known. */
export const addSignal = designEdit({
  schema,
  touches: ['signals'],
  apply: (design, edit, catalog) =>
    withPart(design, edit.partId, () => addSignalTo(design, edit.partId, edit.signal, catalog)),
  words: (edit, design) => `add a signal of ${labelOf(design, edit.partId)}`,
})

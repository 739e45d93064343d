import { z } from 'zod'
import { idSchema } from '../../model/design'
import { designEdit } from '../designEdit'
import { tagOf } from '../names'
import { without, withSignal } from '../step'

const schema = z.strictObject({ kind: z.literal('remove-signal'), signalId: idSchema })

/** A signal goes; its part stays. */
export const removeSignal = designEdit({
  schema,
  touches: ['signals'],
  apply: (design, edit) =>
    withSignal(design, edit.signalId, () => ({ ...design, signals: without(design.signals, edit.signalId) })),
  words: (edit, design) => `remove ${tagOf(design, edit.signalId)}`,
})

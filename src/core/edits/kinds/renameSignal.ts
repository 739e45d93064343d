import { z } from 'zod'
import { idSchema, nameSchema, slugSchema } from '../../model/design'
import { designEdit } from '../designEdit'
import { tagOf } from '../names'
import { slugClash } from '../slugClash'
import { putSignal, withSignal } from '../step'

const schema = z.strictObject({
  kind: z.literal('rename-signal'),
  signalId: idSchema,
  name: nameSchema,
  slug: slugSchema,
})

/** Another name and topic level for a signal. */
export const renameSignal = designEdit({
  schema,
  touches: ['signals'],
  apply: (design, { signalId, name, slug }) =>
    withSignal(
      design,
      signalId,
      (signal) => slugClash(design, signalId, slug) ?? putSignal(design, signalId, { ...signal, name, slug }),
    ),
  words: (edit, design) => `name ${tagOf(design, edit.signalId)} ${edit.name}`,
})

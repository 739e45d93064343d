import { z } from 'zod'
import { idSchema } from '../../model/design'
import { designEdit } from '../designEdit'
import { refuse, without } from '../step'

const schema = z.strictObject({ kind: z.literal('remove-component'), componentId: idSchema })

/** An added component goes. */
export const removeComponent = designEdit({
  schema,
  touches: ['added'],
  apply: (design, { componentId }) =>
    componentId in design.added
      ? { ...design, added: without(design.added, componentId) }
      : refuse('this component is not in the design', 'one that is'),
  words: (edit, design) => `remove ${design.added[edit.componentId]?.names.join(', ') ?? 'a component'}`,
})

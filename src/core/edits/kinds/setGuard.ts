import { z } from 'zod'
import type { Catalog } from '../../catalog/catalog'
import { type Design, guardSchema, idSchema } from '../../model/design'
import { channelOfId, isTwoWayState } from '../channelOfId'
import { designEdit } from '../designEdit'
import { tagOf } from '../names'
import { refuse, type Step } from '../step'

const schema = z.strictObject({ kind: z.literal('set-guard'), guardId: idSchema, guard: guardSchema.nullable() })
type Edit = z.infer<typeof schema>

/** Outputs that may not be on together, or not without something else; null drops it. */
export const setGuard = designEdit({
  schema,
  touches: ['guards'],
  apply: guardSet,
  words: ({ guard }, design) => guardWords(guard, design),
})

function guardWords(guard: Edit['guard'], design: Design): string {
  if (guard === null) return 'drop a guard'
  return guard.kind === 'needs'
    ? `${tagOf(design, guard.output)} only while ${tagOf(design, guard.input)} is ${guard.is ? 'on' : 'off'}`
    : `never together: ${guard.of.map((id) => tagOf(design, id)).join(', ')}`
}

function guardSet(design: Design, edit: Edit, catalog: Catalog): Step {
  const { [edit.guardId]: known, ...others } = design.guards
  const { guard } = edit
  if (guard === null)
    return known ? { ...design, guards: others } : refuse('this guard is no longer in the design', 'one that is')
  const outputs = guard.kind === 'exclusive' ? guard.of : [guard.output]
  const wrong = outputs.find((id) => channelOfId(design, catalog, id)?.access !== 'output')
  if (wrong !== undefined) return refuse(`${design.signals[wrong]?.tag ?? wrong} is no output`, 'outputs of this node')
  // Of a text or a colour nobody can say whether it is on.
  const unclear = outputs.find((id) => {
    const c = channelOfId(design, catalog, id)
    return c?.access === 'output' && c.value !== 'on-off' && c.value !== 'percent'
  })
  if (unclear !== undefined)
    return refuse(
      `${design.signals[unclear]?.tag ?? unclear} is neither on nor off`,
      'outputs that are on or off, or a percentage',
    )
  if (guard.kind === 'exclusive' && new Set(guard.of).size !== guard.of.length)
    return refuse('an output cannot exclude itself', 'each output once')
  if (guard.kind === 'needs' && !isTwoWayState(channelOfId(design, catalog, guard.input)))
    return refuse('what an output needs must be a state that is true or false', 'a contact or switch of this node')
  return { ...design, guards: { ...design.guards, [edit.guardId]: guard } }
}

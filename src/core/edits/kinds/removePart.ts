import { z } from 'zod'
import { type Design, idSchema } from '../../model/design'
import { designEdit } from '../designEdit'
import { labelOf } from '../names'
import { without, withPart } from '../step'

const schema = z.strictObject({ kind: z.literal('remove-part'), partId: idSchema })

/** A part goes, with its signals, locks and pins. */
export const removePart = designEdit({
  schema,
  touches: ['parts', 'signals', 'locks', 'plan'],
  apply: (design, edit) => withPart(design, edit.partId, () => partRemoved(design, edit.partId)),
  words: (edit, design) => `remove ${labelOf(design, edit.partId)}`,
})

export function partRemoved(design: Design, partId: string): Design {
  const own = ([line]: [string, unknown]) => !line.startsWith(`${partId}.`)
  return {
    ...design,
    parts: without(design.parts, partId),
    signals: Object.fromEntries(Object.entries(design.signals).filter(([, s]) => s.partId !== partId)),
    locks: Object.fromEntries(Object.entries(design.locks).filter(own)),
    plan: { ...design.plan, pins: Object.fromEntries(Object.entries(design.plan.pins).filter(own)) },
  }
}

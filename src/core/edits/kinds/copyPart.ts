import { z } from 'zod'
import type { Catalog } from '../../catalog/catalog'
import { type Design, idSchema, nameSchema } from '../../model/design'
import { designEdit } from '../designEdit'
import { labelOf } from '../names'
import { addSignalTo, newSignal } from '../newSignal'
import { putSignal, refuse, type Step } from '../step'
import { partAdded } from './addPart'

const schema = z.strictObject({
  kind: z.literal('copy-part'),
  partId: idSchema,
  newId: idSchema,
  label: nameSchema,
  signals: z.array(newSignal).max(16),
})
type Edit = z.infer<typeof schema>

/** A part once more, with its settings, feeds and the same conditioning. */
export const copyPart = designEdit({
  schema,
  touches: ['parts', 'signals', 'items'],
  apply: partCopied,
  words: (edit, design) => `copy ${labelOf(design, edit.partId)} as ${edit.label}`,
})

function partCopied(design: Design, edit: Edit, catalog: Catalog): Step {
  const part = design.parts[edit.partId]
  if (!part) return refuse('this part is no longer in the design', 'a part that is')
  let next = partAdded(
    design,
    { kind: 'add-part', partId: edit.newId, part: part.kind, label: edit.label, signals: [] },
    catalog,
  )
  if ('refused' in next) return next
  const fresh = next.parts[edit.newId]
  if (!fresh) return next
  // Its address stays the free one: two parts of one address on a bus answer together.
  const { address: _, ...settings } = part.settings
  next = {
    ...next,
    parts: {
      ...next.parts,
      [edit.newId]: {
        ...fresh,
        settings: { ...fresh.settings, ...settings },
        feeds: part.feeds,
        bus: part.bus,
        cableM: part.cableM,
        outdoor: part.outdoor,
      },
    },
  }
  for (const asked of edit.signals) {
    const from = Object.values(design.signals).find(
      (s) => s.partId === edit.partId && s.channel === asked.channel && s.of === null,
    )
    next = addSignalTo(next, edit.newId, asked, catalog)
    if ('refused' in next) return next
    const made = next.signals[asked.id]
    if (from && made)
      next = putSignal(next, asked.id, { ...made, conditioning: from.conditioning, publish: from.publish })
  }
  return next
}

import { z } from 'zod'
import type { Catalog } from '../../catalog/catalog'
import { type Design, idSchema } from '../../model/design'
import { designEdit } from '../designEdit'
import { labelOf } from '../names'
import { refuse, type Step, withPart } from '../step'

const schema = z.strictObject({
  kind: z.literal('set-part'),
  partId: idSchema,
  setting: z.string().max(100),
  value: z.union([z.number(), z.string().max(100)]),
})
type Edit = z.infer<typeof schema>

/** One setting of a part: a choice by its id or label, a number in its unit. */
export const setPart = designEdit({
  schema,
  touches: ['parts'],
  apply: partSet,
  words: (edit, design) =>
    `${edit.setting} ${design.parts[edit.partId]?.settings[edit.setting] ?? ''} → ${edit.value} on ${labelOf(design, edit.partId)}`,
})

function partSet(design: Design, edit: Edit, catalog: Catalog): Step {
  return withPart(design, edit.partId, (part) => {
    const setting = catalog.parts[part.kind]?.settings.find((s) => s.id === edit.setting)
    if (!setting)
      return refuse(
        `${part.label} has no setting “${edit.setting}”`,
        catalog.parts[part.kind]?.settings.map((s) => s.id).join(', ') || 'none: it has no settings',
      )
    let { value } = edit
    if ('choices' in setting) {
      // By its id, or by its label as people write it.
      const choice = setting.choices.find((c) => c.id === value || c.label === value)
      if (!choice) {
        const accepts = setting.choices.map((c) => c.label).join(', ')
        return refuse(`“${edit.value}” is not a choice for ${setting.label}`, accepts)
      }
      value = choice.id
    } else if (typeof edit.value !== 'number' || edit.value < setting.min || edit.value > setting.max) {
      return refuse(`${edit.value} is outside ${setting.label}`, `${setting.min} to ${setting.max} ${setting.unit}`)
    }
    return {
      ...design,
      parts: {
        ...design.parts,
        [edit.partId]: { ...part, settings: { ...part.settings, [edit.setting]: value } },
      },
    }
  })
}

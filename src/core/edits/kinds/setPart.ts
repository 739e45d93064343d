import { z } from 'zod'
import type { Catalog } from '../../catalog/catalog'
import { type Channel, meansOf, type PartKind } from '../../catalog/part'
import { type Design, type DesignPart, idSchema } from '../../model/design'
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
  touches: ['parts', 'signals'],
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
    const settings = { ...part.settings, [edit.setting]: value }
    const next = { ...design, parts: { ...design.parts, [edit.partId]: { ...part, settings } } }
    return { ...next, signals: withLoad(next, edit.partId, part.settings, catalog) }
  })
}

interface ForLoad {
  longestOnS: number
  pulseS: number
}

/** What an output of this part comes with for the load it is set to switch. */
function forLoad(kind: PartKind, settings: DesignPart['settings'], channel: Channel, catalog: Catalog): ForLoad {
  const { load } = meansOf(kind, settings)
  const proposed = 'longestOnS' in channel.proposes ? channel.proposes.longestOnS : 0
  const known = catalog.parts[load?.part ?? '']?.load?.longestOnS
  return { longestOnS: known ?? (load && !load.moves ? 0 : proposed), pulseS: load?.signal ? 1 : 0 }
}

/** Another load takes its own longest time and pulse along, where nobody has set them otherwise. */
function withLoad(design: Design, partId: string, before: DesignPart['settings'], catalog: Catalog): Design['signals'] {
  const part = design.parts[partId]
  const kind = catalog.parts[part?.kind ?? '']
  if (!part || !kind || meansOf(kind, before).load === meansOf(kind, part.settings).load) return design.signals
  return Object.fromEntries(
    Object.entries(design.signals).map(([id, signal]) => {
      const channel = kind.channels.find((c) => c.id === signal.channel)
      if (signal.partId !== partId || channel?.access !== 'output') return [id, signal]
      const [was, is] = [forLoad(kind, before, channel, catalog), forLoad(kind, part.settings, channel, catalog)]
      const { longestOnS, pulseS } = signal.conditioning
      const conditioning = {
        ...signal.conditioning,
        longestOnS: longestOnS === was.longestOnS ? is.longestOnS : longestOnS,
        pulseS: pulseS === was.pulseS ? is.pulseS : pulseS,
      }
      return [id, { ...signal, conditioning }]
    }),
  )
}

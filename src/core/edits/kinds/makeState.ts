import { z } from 'zod'
import type { Catalog } from '../../catalog/catalog'
import { proposedConditioning } from '../../model/conditioning'
import { type Design, idSchema, inOrder, nameSchema, RESERVED_SLUGS, slugSchema } from '../../model/design'
import { levelsSchema } from '../../catalog/levels'
import { slugFrom } from '../../model/slug'
import { nextHue, nextTag } from '../../palette/palette'
import { madeChannel } from '../../publish/madeChannel'
import { channelOfId } from '../channelOfId'
import { designEdit } from '../designEdit'
import { tagOf } from '../names'
import { slugClash } from '../slugClash'
import { nextOrder, putSignal, refuse, type Step, withSignal } from '../step'

const schema = z.strictObject({
  kind: z.literal('make-state'),
  signalId: idSchema.describe('id of the new signal'),
  of: idSchema.describe('reading it is made of'),
  name: nameSchema.optional(),
  slug: slugSchema.optional(),
  letter: z
    .string()
    .regex(/^[A-Z]$/)
    .optional()
    .describe('of its tag'),
  levels: levelsSchema,
})
type Edit = z.infer<typeof schema>

/** A state made of a reading: words between cuts. */
export const makeState = designEdit({
  schema,
  touches: ['signals'],
  apply: made,
  words: (edit, design) => `make ${edit.levels.words.join(', ')} of ${tagOf(design, edit.of)}`,
})

function made(design: Design, edit: Edit, catalog: Catalog): Step {
  return withSignal(design, edit.of, (source): Step => {
    const reading = channelOfId(design, catalog, edit.of)
    if (reading?.access !== 'reading') return refuse(`${source.tag} is no reading`, 'a reading of this node')
    if (edit.signalId in design.signals) return refuse('this signal is in the design already', 'a new id')
    const others = Object.values(design.signals)
    const letter = edit.letter ?? 'S'
    const tag = nextTag(
      letter,
      others.map((s) => s.tag),
    )
    if (tag === null) return refuse(`all 99 tags of letter ${letter} are in use`, 'removing a signal first')
    const channel = madeChannel(reading, edit.levels)
    const slug =
      edit.slug ?? slugFrom(edit.name ?? `${source.slug}-state`, [...others.map((s) => s.slug), ...RESERVED_SLUGS])
    return (
      slugClash(design, edit.signalId, slug) ??
      putSignal(design, edit.signalId, {
        order: nextOrder(design.signals),
        partId: source.partId,
        channel: source.channel,
        of: edit.of,
        name: edit.name ?? slug.replaceAll('-', ' '),
        slug,
        tag,
        hue: nextHue(inOrder(design.signals).map((s) => s.value.hue)),
        conditioning: { ...proposedConditioning(channel), levels: edit.levels },
        publish: {
          entity: true,
          intervalS: channel.proposes.intervalS,
          change: 0,
          decimals: 0,
          unit: '',
          role: 'main',
        },
        calibration: null,
      })
    )
  })
}

import { z } from 'zod'
import type { Catalog } from '../catalog/catalog'
import { traitsOf } from '../catalog/drivers'
import { type Design, idSchema, inOrder, nameSchema, RESERVED_SLUGS, type Signal, slugSchema } from '../model/design'
import { proposedConditioning } from '../model/conditioning'
import { slugFrom } from '../model/slug'
import { nextHue, nextTag } from '../palette/palette'
import { slugClash } from './slugClash'
import { nextOrder, putSignal, refuse, type Step } from './step'

export const newSignal = z.strictObject({
  id: idSchema,
  channel: z.string().max(100),
  name: nameSchema.optional(),
  slug: slugSchema.optional(),
})
type NewSignal = z.infer<typeof newSignal>

/** What a channel makes known, with all that the part proposes for it. */
export function addSignalTo(design: Design, partId: string, asked: NewSignal, catalog: Catalog): Step {
  const part = design.parts[partId]
  const kind = part && catalog.parts[part.kind]
  const channel = kind?.channels.find((c) => c.id === asked.channel)
  if (!kind || !channel)
    return refuse(
      `${part?.label ?? 'this part'} has no channel “${asked.channel}”`,
      kind?.channels.map((c) => c.id).join(', ') ?? '',
    )
  if (asked.id in design.signals) return refuse('this signal is in the design already', 'a new id')
  const others = Object.values(design.signals)
  const taken = others.some((s) => s.partId === partId && s.channel === asked.channel && s.of === null)
  if (taken && !traitsOf(channel.driver).many)
    return refuse(`${part.label} already makes “${channel.name}” known`, 'a channel that is not a signal yet')
  const tag = nextTag(
    channel.proposes.letter,
    others.map((s) => s.tag),
  )
  if (tag === null)
    return refuse(`all 99 tags of letter ${channel.proposes.letter} are in use`, 'removing a signal first')
  const slugs = [...others.map((s) => s.slug), ...RESERVED_SLUGS]
  const slug = asked.slug ?? slugFrom(asked.name ?? channel.proposes.slug, slugs)
  const signal: Signal = {
    order: nextOrder(design.signals),
    partId,
    channel: channel.id,
    of: null,
    name: asked.name ?? slug.replaceAll('-', ' '),
    slug,
    tag,
    hue: nextHue(inOrder(design.signals).map((s) => s.value.hue)),
    conditioning: proposedConditioning(channel),
    publish: {
      entity: true,
      intervalS: channel.proposes.intervalS,
      change: 'change' in channel.proposes ? channel.proposes.change : 0,
      decimals: channel.proposes.decimals,
      unit: channel.proposes.unit,
      role: channel.quantity === 'supply' ? 'diagnostic' : 'main',
    },
    calibration: null,
  }
  const clash = slugClash(design, asked.id, slug)
  return clash ?? putSignal(design, asked.id, signal)
}

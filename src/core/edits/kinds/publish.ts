import { z } from 'zod'
import type { Catalog } from '../../catalog/catalog'
import { type Design, idSchema, type Signal } from '../../model/design'
import { channelOf } from '../../publish/channelOf'
import { unitsFor } from '../../units/convert'
import { designEdit } from '../designEdit'
import { fieldWords } from '../fieldWords'
import { tagOf } from '../names'
import { putSignal, refuse, type Step, withSignal } from '../step'

const schema = z.strictObject({
  kind: z.literal('publish'),
  signalId: idSchema,
  set: z
    .strictObject({
      entity: z.boolean(),
      intervalS: z.number().min(0).max(86400),
      change: z.number().min(0),
      decimals: z.int().min(0).max(6),
      unit: z.string().max(100),
      role: z.enum(['main', 'diagnostic']),
    })
    .partial(),
})

/** How a signal is published: as entity, how often, how fine, in which unit. */
export const publish = designEdit({
  schema,
  touches: ['signals'],
  apply: (design, edit, catalog) =>
    withSignal(design, edit.signalId, (s) => published(design, edit.signalId, s, edit.set, catalog)),
  words: (edit, design) =>
    `${fieldWords(design.signals[edit.signalId]?.publish ?? {}, edit.set)} on ${tagOf(design, edit.signalId)}`,
})

function published(
  design: Design,
  id: string,
  signal: Signal,
  set: Partial<Signal['publish']>,
  catalog: Catalog,
): Step {
  const units = unitsFor(channelOf(design, catalog, signal)?.unit ?? '')
  if (set.unit !== undefined && !units.includes(set.unit))
    return refuse(`${signal.tag} cannot be shown in “${set.unit}”`, units.join(', '))
  return putSignal(design, id, { ...signal, publish: { ...signal.publish, ...set } })
}

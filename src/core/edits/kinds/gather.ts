import { isKey } from '../../catalog/drivers'
import { z } from 'zod'
import type { Catalog } from '../../catalog/catalog'
import { type Design, idSchema, inOrder, nameSchema } from '../../model/design'
import { designEdit } from '../designEdit'
import { putSignal, refuse, type Step } from '../step'
import { partAdded } from './addPart'
import { partRemoved } from './removePart'

const schema = z.strictObject({
  kind: z.literal('gather'),
  partIds: z.array(idSchema).min(2).max(32),
  part: z.string().max(100),
  partId: idSchema,
  label: nameSchema,
})
type Edit = z.infer<typeof schema>

/** Several single contacts become keys of one part; their signals keep names, tags and topics. */
export const gather = designEdit({
  schema,
  touches: ['parts', 'signals', 'items', 'locks', 'plan'],
  apply: gathered,
  words: (edit) => `gather ${edit.partIds.length} parts into ${edit.label}`,
})

function gathered(design: Design, edit: Edit, catalog: Catalog): Step {
  const kind = catalog.parts[edit.part]
  const keys = kind?.channels.filter((c) => isKey(c.driver)) ?? []
  if (!kind || keys.length === 0)
    return refuse(
      `“${edit.part}” gathers no contacts`,
      Object.values(catalog.parts)
        .flatMap((k) => (k.channels[0] && isKey(k.channels[0].driver) ? [k.id] : []))
        .join(', '),
    )
  if (edit.partIds.length > keys.length)
    return refuse(`${kind.name} takes ${keys.length} contacts`, `${keys.length} or fewer`)
  const from = edit.partIds.map((id) => design.parts[id])
  const wrong = from.find((p) => catalog.parts[p?.kind ?? '']?.channels.some((c) => c.driver !== 'button') ?? true)
  if (from.includes(undefined) || wrong)
    return refuse(`${wrong?.label ?? 'a part'} is no push button`, 'push buttons that are in the design')
  const signals = inOrder(design.signals).filter(({ value }) => edit.partIds.includes(value.partId))
  const emptied = edit.partIds.reduce((d, id) => partRemoved(d, id), design)
  const next = partAdded(
    emptied,
    { kind: 'add-part', partId: edit.partId, part: kind.id, label: edit.label, signals: [] },
    catalog,
  )
  if ('refused' in next) return next
  return signals.reduce(
    (d, { id, value }) =>
      putSignal(d, id, {
        ...value,
        partId: edit.partId,
        channel: keys[edit.partIds.indexOf(value.partId)]?.id ?? 'k1',
      }),
    next,
  )
}

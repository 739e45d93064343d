import { z } from 'zod'
import type { Catalog } from '../../catalog/catalog'
import type { PartKind } from '../../catalog/part'
import { BUS_NAME, busOf } from '../../lines/lines'
import { addressOf, addressWords } from '../../model/address'
import { type Design, idSchema, nameSchema } from '../../model/design'
import { railsOf } from '../../power/rails'
import { carried } from '../carried'
import { designEdit } from '../designEdit'
import { lowestRail } from '../lowestRail'
import { addSignalTo, newSignal } from '../newSignal'
import { nextOrder, refuse, type Step } from '../step'

const schema = z.strictObject({
  kind: z.literal('add-part'),
  partId: idSchema,
  part: z.string().max(100),
  label: nameSchema,
  signals: z.array(newSignal).max(16),
})
type Edit = z.infer<typeof schema>

/** A part of the shelf, with the signals asked for. */
export const addPart = designEdit({
  schema,
  touches: ['parts', 'signals', 'items'],
  apply: partAdded,
  words: (edit) => `add ${edit.label}`,
})

export function partAdded(design: Design, edit: Edit, catalog: Catalog): Step {
  const kind = catalog.parts[edit.part]
  const board = catalog.boards[design.board.id]
  if (!kind || !board) return refuse(`“${edit.part}” is not on the shelf`, Object.keys(catalog.parts).join(', '))
  if (edit.partId in design.parts) return refuse('this part is in the design already', 'a new id')
  if (BUS_NAME.test(edit.partId)) return refuse(`“${edit.partId}” is the name of a bus`, 'another id')
  const feeds = Object.fromEntries(
    kind.terminals.flatMap((t) => {
      const rail = t.role === 'supply' && !kind.load ? lowestRail(railsOf(design, board, catalog), t) : undefined
      return rail === undefined ? [] : [[t.id, rail]]
    }),
  )
  const settings = {
    ...Object.fromEntries(kind.settings.map((s) => [s.id, s.default])),
    ...freeAddress(design, kind, catalog),
  }
  let next: Step = {
    ...design,
    parts: {
      ...design.parts,
      [edit.partId]: {
        order: nextOrder(design.parts),
        kind: kind.id,
        label: edit.label,
        settings,
        feeds,
        bus: null,
        cableM: 0.3,
        rom: null,
        outdoor: false,
        found: null,
      },
    },
    items: carried(design, catalog, { parts: [kind.id] }),
  }
  for (const signal of edit.signals) {
    next = addSignalTo(next, edit.partId, signal, catalog)
    if ('refused' in next) return next
  }
  return next
}

/** The first address nobody on its bus has, for a part whose address can be chosen. */
function freeAddress(design: Design, kind: PartKind, catalog: Catalog): Record<string, string> {
  if (!kind.i2c || kind.i2c.addresses.length < 2) return {}
  const taken = Object.values(design.parts).flatMap((p) => {
    const other = catalog.parts[p.kind]
    return other?.i2c && busOf(p, 'i2c') === 'a' ? [addressOf(p, other)] : []
  })
  const free = kind.i2c.addresses.find((a) => !taken.includes(a)) ?? kind.i2c.addresses[0]
  return { address: addressWords(free ?? 0) }
}

import { z } from 'zod'
import type { Catalog } from '../../catalog/catalog'
import { type Design, idSchema, romSchema } from '../../model/design'
import { designEdit } from '../designEdit'
import { fieldWords } from '../fieldWords'
import { labelOf } from '../names'
import { refuse, type Step, withPart } from '../step'

const schema = z.strictObject({
  kind: z.literal('place-part'),
  partId: idSchema,
  set: z
    .strictObject({ cableM: z.number().min(0.01).max(100), outdoor: z.boolean(), rom: romSchema.nullable() })
    .partial(),
})
type Edit = z.infer<typeof schema>

/** Where a part hangs: its cable, outside or not, its address on a one-wire line. */
export const placePart = designEdit({
  schema,
  touches: ['parts'],
  apply: partPlaced,
  words: (edit, design) =>
    `${fieldWords(design.parts[edit.partId] ?? {}, edit.set)} of ${labelOf(design, edit.partId)}`,
})

function partPlaced(design: Design, edit: Edit, catalog: Catalog): Step {
  return withPart(design, edit.partId, (part) => {
    const { rom } = edit.set
    const wired = catalog.parts[part.kind]?.terminals.some((t) => t.role === 'line' && t.bus?.kind === 'one-wire')
    if (rom && !wired) return refuse(`${part.label} is on no one-wire line`, 'a part that is')
    const other = Object.entries(design.parts).find(([id, p]) => rom && id !== edit.partId && p.rom === rom)
    if (other) return refuse(`${other[1].label} has this address already`, 'an address of its own')
    return { ...design, parts: { ...design.parts, [edit.partId]: { ...part, ...edit.set } } }
  })
}

import { z } from 'zod'
import { designEdit } from '../designEdit'
import { fieldWords } from '../fieldWords'
import { withWire } from '../step'

const schema = z.strictObject({
  kind: z.literal('set-wire'),
  wire: z.string().max(100),
  set: z.strictObject({ insulation: z.string().min(1).max(30), gaugeMm2: z.number().min(0.05).max(10) }).partial(),
})

/** Insulation or gauge of a wire, as a person chose it. */
export const setWire = designEdit({
  schema,
  touches: ['wires'],
  apply: (design, edit) =>
    withWire(design, edit.wire, (wire) => ({
      ...wire,
      ...edit.set,
      ...(edit.set.insulation === undefined ? {} : { chosen: true }),
    })),
  words: (edit, design) =>
    `${fieldWords(design.wires[edit.wire] ?? {}, edit.set)} on W${design.wires[edit.wire]?.number ?? ''}`,
})

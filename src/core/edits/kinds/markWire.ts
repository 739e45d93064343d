import { z } from 'zod'
import { designEdit } from '../designEdit'
import { withWire } from '../step'

const schema = z.strictObject({ kind: z.literal('mark-wire'), wire: z.string().max(100), made: z.boolean() })

/** A wire is made, or not any more. */
export const markWire = designEdit({
  schema,
  touches: ['wires'],
  apply: (design, edit) => withWire(design, edit.wire, (wire) => ({ ...wire, made: edit.made })),
  words: (edit, design) => `mark W${design.wires[edit.wire]?.number ?? ''} ${edit.made ? 'made' : 'not made'}`,
})

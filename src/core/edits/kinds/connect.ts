import { z } from 'zod'
import { fixedAddressSchema, slugSchema } from '../../model/design'
import { designEdit } from '../designEdit'
import { refuse } from '../step'

const schema = z.strictObject({
  kind: z.literal('connect'),
  ref: slugSchema,
  address: z.enum(['name', 'lease', 'fixed']),
  fixed: fixedAddressSchema.nullable(),
  keepAliveS: z.int().min(2).max(600),
  secure: z.boolean().optional(),
  quiet: z.boolean().optional(),
})

/** The network a node joins and how it gets its address. */
export const connect = designEdit({
  schema,
  touches: ['network'],
  apply: (design, { ref, address, fixed, keepAliveS, secure, quiet }) =>
    address === 'fixed' && fixed === null
      ? refuse('a fixed address needs its numbers', 'address, mask, gateway and name server')
      : {
          ...design,
          network: {
            ref,
            address,
            keepAliveS,
            fixed,
            secure: secure ?? design.network.secure,
            quiet: quiet ?? design.network.quiet,
          },
        },
  words: (edit) =>
    `network ${edit.ref}, address ${edit.address === 'fixed' ? (edit.fixed?.ip ?? 'fixed') : `by ${edit.address}`}`,
})

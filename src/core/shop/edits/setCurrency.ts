import { z } from 'zod'
import { currencySchema } from '../shop'
import { shopEdit } from '../shopEdit'

/** The currency prices are told in; their numbers stay. */
export const setCurrency = shopEdit({
  schema: z.strictObject({ kind: z.literal('set-currency'), currency: currencySchema.nullable() }),
  touches: ['currency'],
  apply: (shop, { currency }) => ({ ...shop, currency }),
  words: ({ currency }) => (currency === null ? 'prices in no currency' : `prices in ${currency}`),
})

import { z } from 'zod'
import { nameSchema } from '../../model/design'
import { shopEdit } from '../shopEdit'

/** What the shop is called. */
export const renameShop = shopEdit({
  schema: z.strictObject({ kind: z.literal('rename-shop'), name: nameSchema }),
  touches: ['name'],
  apply: (shop, { name }) => ({ ...shop, name }),
  words: ({ name }) => `call the shop ${name}`,
})

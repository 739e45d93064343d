import { z } from 'zod'
import { slugSchema } from '../../model/design'
import { nextOrder } from '../nextOrder'
import { networkSchema } from '../shop'
import { shopEdit } from '../shopEdit'

/** One more network nodes can join. */
export const addNetwork = shopEdit({
  schema: z.strictObject({ kind: z.literal('add-network'), ref: slugSchema, name: networkSchema.shape.name }),
  touches: ['networks'],
  apply: (shop, { ref, name }) =>
    ref in shop.networks
      ? { refused: `there is a network “${ref}” already`, accepts: 'another short name' }
      : {
          ...shop,
          networks: {
            ...shop.networks,
            [ref]: { order: nextOrder(shop.networks), name, hidden: false, band: '2.4' as const, timeServer: '' },
          },
        },
  words: ({ ref }) => `add network ${ref}`,
})

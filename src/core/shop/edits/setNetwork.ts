import { z } from 'zod'
import { slugSchema } from '../../model/design'
import { networkSchema } from '../shop'
import { shopEdit } from '../shopEdit'

/** What a network is called, whether it hides, and at which frequencies it sends. */
export const setNetwork = shopEdit({
  schema: z.strictObject({
    kind: z.literal('set-network'),
    ref: slugSchema,
    set: networkSchema.pick({ name: true, hidden: true, band: true }).partial(),
  }),
  touches: ['networks'],
  apply: (shop, { ref, set }) => {
    const network = shop.networks[ref]
    return network
      ? { ...shop, networks: { ...shop.networks, [ref]: { ...network, ...set } } }
      : { refused: `there is no network “${ref}” any more`, accepts: Object.keys(shop.networks).join(', ') }
  },
  words: ({ ref }) => `change network ${ref}`,
})

import { z } from 'zod'
import { slugSchema } from '../../model/design'
import { networkSchema } from '../shop'
import { shopEdit } from '../shopEdit'

/** What a network is called, whether it hides, at which frequencies it sends, and who is asked for the time there. */
export const setNetwork = shopEdit({
  schema: z.strictObject({
    kind: z.literal('set-network'),
    ref: slugSchema,
    // What is left out stays as it is: a default would set it back.
    set: z
      .strictObject({
        name: networkSchema.shape.name,
        hidden: networkSchema.shape.hidden.removeDefault(),
        band: networkSchema.shape.band.removeDefault(),
        timeServer: networkSchema.shape.timeServer.removeDefault(),
      })
      .partial(),
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

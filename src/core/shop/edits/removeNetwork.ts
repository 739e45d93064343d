import { z } from 'zod'
import { slugSchema } from '../../model/design'
import { shopEdit } from '../shopEdit'

/** A network goes. A node that joins it is told so by a finding. */
export const removeNetwork = shopEdit({
  schema: z.strictObject({ kind: z.literal('remove-network'), ref: slugSchema }),
  touches: ['networks'],
  apply: (shop, { ref }) => {
    const { [ref]: known, ...networks } = shop.networks
    return known
      ? { ...shop, networks }
      : { refused: `there is no network “${ref}” any more`, accepts: Object.keys(shop.networks).join(', ') }
  },
  words: ({ ref }) => `remove network ${ref}`,
})

import { z } from 'zod'
import { idSchema } from '../../model/design'
import { shopEdit } from '../shopEdit'

/** A place goes. A node that names it is told so by a finding. */
export const removePlace = shopEdit({
  schema: z.strictObject({ kind: z.literal('remove-place'), placeId: idSchema }),
  touches: ['places'],
  apply: (shop, { placeId }) => {
    const { [placeId]: known, ...places } = shop.places
    return known ? { ...shop, places } : { refused: 'there is no such place any more', accepts: 'a place that is' }
  },
  words: ({ placeId }, shop) => `remove place ${shop.places[placeId]?.name ?? ''}`,
})

import { z } from 'zod'
import { idSchema } from '../../model/design'
import { placeNameSchema } from '../shop'
import { shopEdit } from '../shopEdit'

/** Another name for a place. Nodes there keep it; their files have to be sent for the new word to be announced. */
export const renamePlace = shopEdit({
  schema: z.strictObject({ kind: z.literal('rename-place'), placeId: idSchema, name: placeNameSchema }),
  touches: ['places'],
  apply: (shop, { placeId, name }) => {
    const place = shop.places[placeId]
    return place
      ? { ...shop, places: { ...shop.places, [placeId]: { ...place, name } } }
      : { refused: 'there is no such place any more', accepts: 'a place that is' }
  },
  words: ({ placeId, name }, shop) => `rename ${shop.places[placeId]?.name ?? 'a place'} to ${name}`,
})

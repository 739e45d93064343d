import { z } from 'zod'
import { idSchema } from '../../model/design'
import { nextOrder } from '../nextOrder'
import { placeNameSchema } from '../shop'
import { shopEdit } from '../shopEdit'

/** One more room, yard or cupboard a node can be in. */
export const addPlace = shopEdit({
  schema: z.strictObject({ kind: z.literal('add-place'), placeId: idSchema, name: placeNameSchema }),
  touches: ['places'],
  apply: (shop, { placeId, name }) =>
    placeId in shop.places
      ? { refused: 'this place is there already', accepts: 'a new id' }
      : { ...shop, places: { ...shop.places, [placeId]: { order: nextOrder(shop.places), name } } },
  words: ({ name }) => `add place ${name}`,
})

import {
  applyShopEdit,
  type ShopEditBody,
  shopEditBodySchema,
  shopEditWords,
  touchedByShopEdit,
} from '../../core/shop/edits'
import type { Shop } from '../../core/shop/shop'
import { editedDocument } from './edited'

/** The shop document as a tab edits it. */
export const shopEditing = editedDocument<Shop, ShopEditBody>({
  schema: shopEditBodySchema,
  apply: applyShopEdit,
  words: shopEditWords,
  touches: touchedByShopEdit,
})

import { z } from 'zod'
import { type Applied, editEnvelope, editing, revertSchema, schemasOf } from '../documents/editing'
import type { Refused } from '../documents/editKind'
import { addNetwork } from './edits/addNetwork'
import { addPlace } from './edits/addPlace'
import { removeNetwork } from './edits/removeNetwork'
import { removePlace } from './edits/removePlace'
import { renamePlace } from './edits/renamePlace'
import { renameShop } from './edits/renameShop'
import { setCurrency } from './edits/setCurrency'
import { setFamily } from './edits/setFamily'
import { setNetwork } from './edits/setNetwork'
import { setSender } from './edits/setSender'
import { setTemplate } from './edits/setTemplate'
import { MOST_NETWORKS, MOST_PLACES, type Shop, shopSchema } from './shop'

/** Everything a person can do to the shop document, beside taking something back. One kind, one file in `edits/`. */
export const SHOP_EDITS = [
  renameShop,
  setCurrency,
  addPlace,
  renamePlace,
  removePlace,
  addNetwork,
  setNetwork,
  removeNetwork,
  setTemplate,
  setFamily,
  setSender,
] as const

export const shopEditBodySchema = z.discriminatedUnion('kind', [...schemasOf(SHOP_EDITS), revertSchema])
export type ShopEditBody = z.infer<typeof shopEditBodySchema>

/** An edit of the shop document as it is sent and kept. */
export const shopEditSchema = editEnvelope(z.literal('shop'), shopEditBodySchema)
export type ShopEdit = z.infer<typeof shopEditSchema>

const shop = editing<Shop, null>(
  { schema: shopSchema, normalize: (document) => document, newlyWrong, placeName },
  SHOP_EDITS,
)

/** The shop after one edit, or why not and what would be accepted. */
export const applyShopEdit = (before: Shop, edit: ShopEditBody): Applied<Shop> => shop.apply(before, edit, null)
export const invertShopEdit = (before: Shop, edit: ShopEditBody): ShopEditBody | null => shop.invert(before, edit, null)
export const shopEditWords: (edit: ShopEditBody, before: Shop) => string = shop.words
export const touchedByShopEdit: (edit: ShopEditBody) => readonly string[] = shop.touches

/** What no edit may leave behind: another document, no network, or two places of one name. */
function newlyWrong(before: Shop, after: Shop): Refused | null {
  if (after.id !== before.id)
    return { refused: 'the identity of a shop is not changed', accepts: 'anything else of it' }
  const [places, networks] = [Object.values(after.places), Object.keys(after.networks)]
  if (networks.length === 0)
    return { refused: 'a shop has at least one network', accepts: 'adding the other one first' }
  if (networks.length > MOST_NETWORKS) return { refused: 'too many networks', accepts: `at most ${MOST_NETWORKS}` }
  if (places.length > MOST_PLACES) return { refused: 'too many places', accepts: `at most ${MOST_PLACES}` }
  const seen = new Set<string>()
  for (const { name } of places) {
    const word = name.toLowerCase()
    if (seen.has(word)) return { refused: `there is a place “${name}” already`, accepts: 'another name' }
    seen.add(word)
  }
  return null
}

/** How an entry of each collection is called. */
const CALLED: Record<string, (document: Shop, id: string) => string> = {
  places: (s, id) => s.places[id]?.name ?? 'a place',
  templates: (s, id) => `template ${s.templates[id]?.name ?? ''}`,
  families: (s, id) => `family ${s.families[id]?.name ?? ''}`,
  senders: (s, id) => s.senders[id]?.name ?? 'a sender',
  networks: (_, id) => `network ${id}`,
}

function placeName(document: Shop, [collection = '', id]: readonly string[]): string {
  const called = CALLED[collection]
  if (called && id !== undefined) return called(document, id)
  return collection === 'name' ? 'the name of the shop' : `“${collection}”`
}

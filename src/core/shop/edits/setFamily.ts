import { z } from 'zod'
import { idSchema } from '../../model/design'
import { MOST_FAMILIES, senderFault } from '../../model/sender'
import { familySchema } from '../../radio/subghz/family'
import { shopEdit } from '../shopEdit'

/** How senders of one make say their codes; null drops it. */
export const setFamily = shopEdit({
  schema: z.strictObject({ kind: z.literal('set-family'), familyId: idSchema, family: familySchema.nullable() }),
  touches: ['families'],
  apply: (shop, { familyId, family }) => {
    const { [familyId]: known, ...others } = shop.families
    const users = Object.values(shop.senders).filter((s) => s.family === familyId)
    if (family === null) {
      if (!known) return { refused: 'this family is no longer in the shop', accepts: 'one that is' }
      if (users[0]) return { refused: `${users[0].name} is of this family`, accepts: 'forgetting its senders first' }
      return { ...shop, families: others }
    }
    if (!known && Object.keys(others).length >= MOST_FAMILIES)
      return { refused: 'too many families', accepts: `at most ${MOST_FAMILIES}` }
    for (const sender of users) {
      const fault = senderFault(sender, family)
      if (fault) return { refused: `${sender.name}: ${fault.refused}`, accepts: fault.accepts }
    }
    return { ...shop, families: { ...others, [familyId]: family } }
  },
  words: ({ family, familyId }, shop) =>
    family === null
      ? `drop family “${shop.families[familyId]?.name ?? ''}”`
      : `family “${family.name}”, ${family.bits} bits`,
})

import { z } from 'zod'
import { idSchema } from '../../model/design'
import { isReservedNode } from '../../model/reserved'
import { MOST_SENDERS, senderFault, senderSchema } from '../../model/sender'
import { shopEdit } from '../shopEdit'

/** A sender as it is kept: what it is called, how it is known, what it tells, who hears it; null forgets it. */
export const setSender = shopEdit({
  schema: z.strictObject({ kind: z.literal('set-sender'), senderId: idSchema, sender: senderSchema.nullable() }),
  touches: ['senders'],
  apply: (shop, { senderId, sender }) => {
    const { [senderId]: known, ...others } = shop.senders
    if (sender === null)
      return known
        ? { ...shop, senders: others }
        : { refused: 'this sender is no longer in the shop', accepts: 'one that is' }
    if (!known && Object.keys(others).length >= MOST_SENDERS)
      return { refused: 'too many senders', accepts: `at most ${MOST_SENDERS}` }
    const family = shop.families[sender.family]
    if (!family) return { refused: 'its family is not in the shop', accepts: 'adding that first' }
    const fault = senderFault(sender, family)
    if (fault) return fault
    if (isReservedNode(sender.slug))
      return { refused: `“${sender.slug}” has a meaning of its own in the topics`, accepts: 'another short name' }
    for (const other of Object.values(others)) {
      if (other.slug === sender.slug)
        return { refused: `another sender is called “${sender.slug}” already`, accepts: 'another short name' }
      if (other.tag === sender.tag) return { refused: `${sender.tag} is ${other.name}`, accepts: 'a tag nobody has' }
    }
    return { ...shop, senders: { ...others, [senderId]: sender } }
  },
  words: ({ sender, senderId }, shop) => {
    const before = shop.senders[senderId]
    if (sender === null) return `forget ${before?.name ?? 'a sender'}`
    if (!before) return `${sender.tag} ${sender.name} is heard`
    return before.name === sender.name
      ? `${sender.tag} ${sender.name} otherwise`
      : `${before.name} is called ${sender.name}`
  },
})
